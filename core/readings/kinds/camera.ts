import * as yup from 'yup';
import { finite, flag as bool, frame, name, once, real, text } from '../../document/fields';
import { placed } from '../../space/align';
import { DOUBTS } from '../../space/assess';
import { cameraDataOf } from '../../space/camera-data';
import { FOCAL_WAYS, MARKS } from '../../space/camera-parts';
import { upright } from '../../space/reference';
import type { CameraReading } from '../types';
import { ORDER, common, inOrder, numbers, numbersOf, seen, tap } from './fields';
import type { ReadingKind } from './kind';
import { decimal, eachTap } from './kind';

const vec3 = () => numbersOf((v) => v.length === 3);
const MOST_TRACKS = 20_000;

const schema = yup.object({
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

/** Where the camera was on each frame, and points of the scene: its table has those, y up. */
export const CAMERA: ReadingKind<CameraReading> = {
  schema,
  taps: (r) => r.exclude.map((matte) => ({ tap: matte, kind: 'readingMatte', use: 'matte' })),
  moveTaps(r, to) {
    r.exclude = eachTap(r.exclude, to);
  },
  restsOn: (r, id) => r.solved !== null && (r.hand.includes(id) || r.settings.lens === id),
  forget(r, id) {
    if (r.settings.lens === id) r.settings.lens = '';
    else if (!r.hand.includes(id)) return;
    r.hand = r.hand.filter((x) => x !== id);
    if (r.solved) r.stale = true;
  },
  data: (r, { readings }, scale) => cameraDataOf(r, readings, scale),
  table: (r) => [
    'track,x,y,z,error,frames',
    ...(r.solved?.points ?? [])
      .filter((p) => p.used)
      .map((p) => [p.track, ...upright(placed(r.placing, p.at)).map(decimal), decimal(p.error), p.count]),
  ],
};
