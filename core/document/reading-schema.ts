import * as yup from 'yup';
import { PLANE_MODELS } from '../geometry/fit';
import { READING_CHANNELS } from '../readings/gray';
import { TEACHES, VARIATIONS } from '../learn/lesson';
import { LENS_MODEL_NAMES } from '../lens/models';
import { CHART_PATTERNS } from '../lens/reading';
import { FLAGS } from '../readings/point';
import { POINT_MODELS } from '../readings/pattern';
import { DOUBTS } from '../space/assess';
import { FOCAL_WAYS, MARKS } from '../space/camera-parts';
import { finite, flag as bool, frame, name, once, real, text } from './fields';

const ORDER = '${path} are not in order';
const numbers = (count?: number) => {
  const list = yup.array(real()).required();
  return count === undefined ? list : list.length(count);
};
const share = () => real().min(0).max(1);
const tap = { lane: text(), after: yup.string().strict().optional() };
const settings = { threshold: share(), lost: text().oneOf(['stop', 'predict']) };
const flag = yup.string().strict().oneOf(FLAGS).optional();
const seen = { frame: frame(), confidence: share(), error: real().min(0), flag, pinned: bool().optional() };
/** Left, top, right, bottom around the point that they are counted from. */
const box = () =>
  numbers(4).test(
    'around',
    '${path} is not a box around its point',
    (v) => Array.isArray(v) && v[0]! < 0 && v[1]! < 0 && v[2]! > 0 && v[3]! > 0 && Math.max(v[2]! - v[0]!, v[3]! - v[1]!) <= 4096,
  );
const inOrder = (list: unknown): boolean => {
  const frames = Array.isArray(list) ? list.map((f: { frame?: unknown } | null) => (typeof f?.frame === 'number' ? f.frame : NaN)) : [];
  return frames.every((f, i) => i === 0 || !(f <= frames[i - 1]!));
};
const polygons = () => yup.array(numbers().min(6)).required();

const common = {
  id: text(),
  name: name(),
  from: yup.object(tap).required(),
  channel: text().oneOf(READING_CHANNELS),
  reference: frame(),
  range: yup.object({ first: frame(), last: frame() }).required(),
  stale: bool().optional(),
};

const point = yup.object({
  ...common,
  kind: text().oneOf(['point']),
  settings: yup
    .object({
      ...settings,
      pattern: box(),
      search: box(),
      model: text().oneOf(POINT_MODELS),
      renew: text().oneOf(['never', 'every', 'guarded']),
    })
    .required(),
  at: numbers(2),
  frames: yup
    .array(once(yup.object({ ...seen, x: real(), y: real(), turn: finite(), scale: finite() })))
    .required()
    .test('order', ORDER, inOrder),
});

const plane = yup.object({
  ...common,
  kind: text().oneOf(['plane']),
  settings: yup.object({ ...settings, model: text().oneOf(PLANE_MODELS) }).required(),
  region: yup.object({ shapes: polygons(), without: polygons() }).required(),
  matte: yup
    .object({ ...tap, invert: bool().required() })
    .default(undefined)
    .optional(),
  surface: yup.array(numbers(2)).length(4).required(),
  frames: yup
    .array(
      once(yup.object({ ...seen, homography: numbers(9), used: yup.array(real()).optional(), rejected: yup.array(real()).optional() })),
    )
    .required()
    .test('order', ORDER, inOrder),
});

const pattern = () => text().oneOf(CHART_PATTERNS);
const lensValue = yup.object({
  model: text().oneOf(LENS_MODEL_NAMES),
  coefficients: yup
    .object()
    .required()
    .test(
      'terms',
      '${path} are not all numbers',
      (v) => Object.keys(v).length <= 32 && Object.values(v).every((k) => typeof k === 'number' && Number.isFinite(k)),
    ),
  centre: numbers(2),
  focal: real().moreThan(0),
  squeeze: real().moreThan(0),
  format: yup.object({ width: real().moreThan(0), height: real().moreThan(0) }).required(),
});

/** A lens by itself, as it is written to a file. */
export const lensSchema = lensValue.required();

const lens = yup.object({
  ...common,
  kind: text().oneOf(['lens']),
  settings: yup
    .object({
      pattern: text().oneOf(['auto', ...CHART_PATTERNS]),
      model: text().oneOf(['auto', ...LENS_MODEL_NAMES]),
      mm: real().min(0),
      sensor: real().min(0),
      squeeze: real().moreThan(0),
    })
    .required(),
  frames: yup
    .array(
      once(
        yup.object({
          ...seen,
          pattern: pattern(),
          mm: finite().min(0).optional(),
          crossings: yup
            .array(
              once(
                yup.object({
                  column: real(),
                  row: real(),
                  x: real(),
                  y: real(),
                  used: bool().required(),
                  hand: bool().optional(),
                  why: yup.string().strict().max(200).optional(),
                  off: yup.array(real()).length(2).optional(),
                }),
              ),
            )
            .required()
            .max(20_000),
        }),
      ),
    )
    .required()
    .test('order', ORDER, inOrder),
  lines: yup
    .array(
      once(
        yup.object({
          frame: frame(),
          drawn: numbers().min(4),
          found: numbers(),
          ruler: bool().optional(),
          bend: finite().optional(),
          left: finite().optional(),
          out: bool().optional(),
        }),
      ),
    )
    .required(),
  solved: yup
    .array(
      once(
        yup.object({
          lens: lensValue.required(),
          mm: finite().min(0).optional(),
          rms: real().min(0),
          max: real().min(0),
          rings: yup.array(yup.number().nullable()).required(),
          assumed: bool().optional(),
        }),
      ),
    )
    .required(),
});

/** Long lists of numbers are looked through by hand: thousands of schemas of a number each would be slow. */
const numbersOf = (ok: (list: readonly unknown[]) => boolean) =>
  yup
    .array()
    .required()
    .test(
      'numbers',
      '${path} are not all numbers',
      (v) => Array.isArray(v) && v.every((n) => typeof n === 'number' && Number.isFinite(n)) && ok(v),
    );
const vec3 = () => numbersOf((v) => v.length === 3);
const MOST_TRACKS = 20_000;

const camera = yup.object({
  ...common,
  kind: text().oneOf(['camera']),
  settings: yup
    .object({
      count: real().min(8).max(4000),
      least: real().min(2).max(1000),
      margin: real().min(0).max(4000),
      focal: text().oneOf(FOCAL_WAYS),
      mm: real().min(0),
      sensor: real().min(0),
      bend: bool().required(),
      lens: yup.string().strict().defined(),
      handWeight: real().min(0.01).max(1000),
    })
    .required(),
  exclude: yup.array(yup.object({ ...tap, invert: bool().required() })).required(),
  hand: yup.array(text()).required(),
  tracks: yup
    .array(once(yup.object({ id: text(), first: frame(), at: numbersOf((v) => v.length >= 2 && v.length % 2 === 0) })))
    .required()
    .max(MOST_TRACKS),
  frames: yup
    .array(
      once(
        yup.object({
          ...seen,
          matrix: numbersOf((v) => v.length === 12),
          focal: real().moreThan(0),
          count: real().min(0),
          slide: yup
            .mixed()
            .test(
              'numbers',
              '${path} are not three numbers',
              (v) => v === undefined || (Array.isArray(v) && v.length === 3 && v.every((n) => Number.isFinite(n))),
            ),
        }),
      ),
    )
    .required()
    .test('order', ORDER, inOrder),
  solved: yup
    .object({
      kind: text().oneOf(['moving', 'turning', 'planar']),
      zooms: bool().required(),
      centre: numbers(2),
      bend: numbers(2),
      rms: real().min(0),
      depths: numbers(3),
      format: yup.object({ width: real().moreThan(0), height: real().moreThan(0) }).required(),
      expected: finite().min(0).optional(),
      points: yup
        .array(
          once(
            yup.object({
              track: text(),
              at: vec3(),
              error: real().min(0),
              count: real().min(0),
              used: bool().required(),
              angle: real(),
              why: yup.string().strict().oneOf(DOUBTS).optional(),
            }),
          ),
        )
        .required()
        .max(MOST_TRACKS),
    })
    .nullable()
    .defined()
    .default(null),
  placing: yup.object({ turn: numbersOf((v) => v.length === 9), scale: real().moreThan(0), shift: vec3() }).required(),
  groups: yup
    .array(
      yup.object({
        id: text(),
        name: name(),
        colour: text().matches(/^#[0-9a-f]{6}$/, '${path} is no colour'),
        mark: text().oneOf(MARKS),
        tracks: yup.array(text()).required(),
      }),
    )
    .required(),
  cards: yup
    .array(
      yup.object({
        id: text(),
        track: yup.string().strict().defined(),
        lies: text().oneOf(['facing', 'ground']),
        size: real().moreThan(0),
      }),
    )
    .required(),
});

const file = () =>
  yup.object({
    hash: text().matches(/^[0-9a-f]{64}$/, '${path} is not a SHA-256 hash'),
    name: name(),
    path: yup.string().strict().optional(),
  });

const lesson = yup.object({
  ...common,
  kind: text().oneOf(['lesson']),
  teaches: text().oneOf(TEACHES),
  settings: yup
    .object({
      seed: real().integer().min(0).max(1e9),
      minutes: real().min(0.1).max(600),
      variation: yup.object(Object.fromEntries(VARIATIONS.map((v) => [v, share()]))).required(),
    })
    .required(),
  examples: yup
    .array(yup.object({ frame: frame(), target: yup.object(tap).required(), held: bool().required() }))
    .required()
    .max(200),
  passers: yup.array(yup.object(tap)).required().max(20),
  weights: file().nullable().defined().default(null),
  steps: real().integer().min(0),
  seconds: real().min(0),
  losses: yup
    .array(numbersOf((v) => v.length === 3))
    .required()
    .max(2000),
  snapshots: yup
    .array(yup.object({ id: text(), steps: real().integer().min(0), loss: real(), file: file().required() }))
    .required()
    .max(50),
  frames: yup
    .array(
      once(
        yup.object({
          frame: frame(),
          confidence: share(),
          error: real().min(0),
          flag: yup.string().strict().oneOf(['doubtful']).optional(),
        }),
      ),
    )
    .required()
    .test('order', ORDER, inOrder),
});

const BY_KIND = { plane, lens, point, camera, lesson };

/** A reading of a document, by its kind. */
export const readingSchema = yup.lazy(
  (value: unknown) => BY_KIND[((value as { kind?: unknown } | null)?.kind ?? '') as keyof typeof BY_KIND]?.required() ?? point.required(),
);
