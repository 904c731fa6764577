import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { produce } from 'immer';
import { deltaE2000, labOf } from '@/core/colour/delta-e';
import { gaussianBlur } from '@/core/filters/gaussian';
import { rect } from '@/core/geometry/rect';
import { RGBA } from '@/core/picture';
import type { Around } from '@/core/seating/look';
import { lookAround, lookAtElement } from '@/core/seating/look';
import type { Row } from '@/core/seating/match';
import { matchOf } from '@/core/seating/match';
import { SG050, renderSlipway } from '@/demo/sg050';
import { SG060, renderMooring } from '@/demo/sg060';
import { basinLight } from '@/demo/sg080';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node/host';
import { matchNow, setMatch } from '@/core/assemblies/seating';
import { flowAccuracy } from './flow-accuracy';
import type { Light } from './seating-frames';
import { lightOfFrames } from './seating-frames';
import type { Figures } from '@/core/seating/figures';
import { figuresOf, overFrames } from '@/core/seating/figures';
import { random } from '@/core/random';
import { table } from './timing';

type Planes = Light['planes'];
const kernels = await nodeKernels();
function blurred(plane: Float32Array, w: number, h: number, sigma: number): Float32Array {
  const whole = rect(0, 0, w, h);
  const [given, soft] = [kernels.copy(plane), kernels.take(w * h)];
  gaussianBlur(kernels, given, whole, soft, whole, sigma, sigma, whole);
  const out = Float32Array.from(soft);
  [given, soft].forEach((p) => kernels.give(p));
  return out;
}

interface Change {
  gain: readonly [number, number, number];
  lift: readonly [number, number, number];
  sigma: number;
  grain: number;
}

function changed({ planes, w, h }: Light, { gain, lift, sigma, grain }: Change, seed: number): Light {
  const next = random(seed);
  const gauss = (): number => Math.sqrt(-2 * Math.log(Math.max(1e-12, next()))) * Math.cos(2 * Math.PI * next());
  const made = planes.map((p, c) => {
    const soft = sigma > 0 ? blurred(p, w, h, sigma) : p;
    return soft.map((v) => v * gain[c]! + lift[c]! + (grain > 0 ? grain * gauss() : 0));
  }) as Planes;
  return { planes: made, w, h };
}

const NONE: Change = { gain: [1, 1, 1], lift: [0, 0, 0], sigma: 0, grain: 0 };
const CHANGES: readonly (readonly [string, Change])[] = [
  ['gain', { ...NONE, gain: [1.4, 1.1, 0.8] }],
  ['lift', { ...NONE, lift: [0.01, 0.02, 0.035] }],
  ['blur', { ...NONE, sigma: 1.8 }],
  ['grain', { ...NONE, grain: 0.02 }],
  ['all of it', { gain: [1.3, 1.05, 0.85], lift: [0.01, 0.015, 0.02], sigma: 1.8, grain: 0.02 }],
];

const measure = (frames: readonly Light[]): Figures =>
  overFrames(frames.map(({ planes, w, h }) => figuresOf(kernels, { planes, w, h, inside: new Uint8Array(w * h).fill(1) }, 'a frame')));

const percent = (v: number): string => (Number.isFinite(v) ? `${(100 * v).toFixed(1)} %` : '—');

/** Injected differences against what the meter tells, as parts of what was injected; the worst channel. */
function recovered(is: Figures, was: Figures, change: Change): string[] {
  const worst = (of: (c: 0 | 1 | 2) => number): number => Math.max(...([0, 1, 2] as const).map((c) => Math.abs(of(c))));
  const gainOf = (c: 0 | 1 | 2): number => (is.white[c].value - is.black[c].value) / (was.white[c].value - was.black[c].value);
  const gain = worst((c) => gainOf(c) / change.gain[c] - 1);
  const lift = change.lift[0]
    ? worst((c) => (is.black[c].value - was.black[c].value * change.gain[c] - change.lift[c]) / change.lift[c])
    : NaN;
  const white = worst((c) => is.white[c].value / (was.white[c].value * change.gain[c] + change.lift[c]) - 1);
  const blur =
    change.sigma && is.softness && was.softness
      ? Math.sqrt(Math.max(0, is.softness.value ** 2 - was.softness.value ** 2)) / change.sigma - 1
      : NaN;
  // Grain of the picture's own was multiplied and, where it was blurred, smoothed away.
  const own = (c: 0 | 1 | 2): number => (change.sigma ? 0 : (was.grain?.sigma[c].value ?? 0) * change.gain[c]);
  const grain = change.grain && is.grain ? worst((c) => is.grain!.sigma[c].value / Math.hypot(change.grain, own(c)) - 1) : NaN;
  return [percent(white), percent(gain), percent(lift), percent(blur), percent(grain)];
}

async function meterRows(root: string): Promise<string> {
  const rows: string[][] = [];
  for (const [name, shot, lane, frames] of [
    ['SG080 basin', 'sg080-begun', 'basin', [2, 9, 16, 23]],
    ['SG060 mooring', 'sg060', 'mooring', [4, 16, 28, 40]],
    ['SG040 wall', 'sg040', 'wall', [4, 16, 28, 40]],
  ] as const) {
    const lights = await lightOfFrames(root, shot, lane, frames);
    const was = measure(lights);
    for (const [what, change] of CHANGES) {
      const is = measure(lights.map((l, i) => changed(l, change, 100 + i)));
      rows.push([`${name}, ${what}`, ...recovered(is, was, change)]);
    }
  }
  return [
    'The match meter: a plate beside itself with differences put in, four frames; how far off each is told, in parts of it (the worst channel). Gains 0.8 to 1.4, lifts 0.01 to 0.035, blur of σ 1.8 px, grain of σ 0.02.',
    '',
    table(['plate and difference', 'white', 'gain', 'lift of black', 'blur', 'grain'], rows),
  ].join('\n');
}

/** Mean ΔE 2000 of a result against light, where a place counts. */
function apartFrom(made: Light, truth: Float32Array, counts: (i: number) => boolean): { mean: number; far: number } {
  let [sum, n, far] = [0, 0, 0];
  for (let i = 0; i < made.w * made.h; i++) {
    if (!counts(i)) continue;
    const [a, b] = [[0, 1, 2].map((c) => truth[3 * i + c]!), [0, 1, 2].map((c) => made.planes[c]![i]!)] as [Rgb, Rgb];
    const e = deltaE2000(labOf(...a), labOf(...b));
    sum += e;
    n++;
    if (e > 6) far++;
  }
  return { mean: sum / n, far: far / n };
}
type Rgb = [number, number, number];

/** The buoy and its reflection in SG080, begun and finished, against the buoy rendered in its place. */
async function basinRows(root: string): Promise<string[][]> {
  const rows: string[][] = [];
  for (const frame of [4, 14, 21]) {
    const [truth, bare] = [basinLight(frame, true), basinLight(frame, false)];
    const counts = (i: number): boolean => [0, 1, 2].some((c) => Math.abs(truth[3 * i + c]! - bare[3 * i + c]!) > 0.01);
    const of = async (shot: string, whole: boolean): Promise<Light> => (await lightOfFrames(root, shot, 'basin', [frame], whole))[0]!;
    const [laid, seated, plate] = [await of('sg080-begun', true), await of('sg080', true), await of('sg080', false)];
    const told = ({ mean, far }: { mean: number; far: number }): string => `${mean.toFixed(2)} (${(100 * far).toFixed(0)} %)`;
    rows.push([
      `frame ${frame}`,
      told(apartFrom(laid, truth, counts)),
      told(apartFrom(seated, truth, counts)),
      told(apartFrom(plate, bare, counts)),
    ]);
  }
  return rows;
}

/** A piece of the night harbour, as if filmed by another camera, put back where it is from and matched by the meter's rows alone. */
export async function harbourRows(root: string, around: Around, rows: readonly Row[]): Promise<string[]> {
  const base = await openShotFile(join(root, 'demo/shots/sg010.json'));
  const { width: w, height: h } = base.shot.format;
  const shotFile = join(root, 'demo/shots/_piece.json');
  const lane = (id: string, source: string, steps: object[]) => ({
    id,
    name: id,
    start: { source },
    muted: false,
    collapsed: false,
    steps,
  });
  const write = (shot: object): void => writeFileSync(shotFile, JSON.stringify(shot));
  write({
    ...base.shot,
    sources: [
      { id: 'src-harbour', name: 'night harbour', path: '../media/sg010/harbour.png', colourSpace: 'sRGB' },
      { id: 'src-piece', name: 'piece', path: '../media/elements/quay-piece.exr', colourSpace: 'linear' },
    ],
    lanes: [
      lane('piece', 'src-piece', []),
      lane('harbour', 'src-harbour', [
        { id: 'j', type: 'join', name: 'Piece', on: true, params: {}, mix: 1, feeds: { front: { lane: 'piece' } } },
      ]),
    ],
    result: 'harbour',
    readings: [],
    notes: [],
  });
  try {
    const opened = await openShotFile(shotFile);
    const host = await nodeHost(opened.files);
    let { shot } = opened;
    const render = (tap: { lane: string; after?: string }) => host.render(shot, { tap, frame: 1, scale: 1, channels: RGBA });
    const truth = await render({ lane: 'harbour', after: '' });
    const alpha = (await render({ lane: 'piece' })).pixels;
    const light = Float32Array.from({ length: 3 * w * h }, (_, i) => truth.pixels[4 * Math.floor(i / 3) + (i % 3)]!);
    const made = async (): Promise<Light> => {
      const { pixels } = await render({ lane: 'harbour' });
      return { planes: [0, 1, 2].map((c) => Float32Array.from({ length: w * h }, (_, i) => pixels[4 * i + c]!)) as Planes, w, h };
    };
    const figures = async (): Promise<{ element: Figures; plate: Figures }> => {
      const [own, plate] = [await render({ lane: 'piece' }), await render({ lane: 'harbour', after: '' })];
      return {
        element: figuresOf(kernels, lookAtElement(own), 'the piece'),
        plate: figuresOf(kernels, lookAround(own, plate, around), 'the harbour'),
      };
    };
    const error = async (): Promise<string> => apartFrom(await made(), light, (i) => alpha[4 * i + 3]! > 0.5).mean.toFixed(2);
    const told = [await error()];
    for (const row of rows) {
      const { element, plate } = await figures();
      const match = matchOf(row, element, plate, matchNow(shot, 'piece', 1));
      if (!('why' in match)) shot = produce(shot, setMatch('piece', match, 1));
      told.push(`${await error()}${'why' in match ? ` (${match.why})` : ''}`);
    }
    return told;
  } finally {
    rmSync(shotFile);
  }
}

async function inTurn<T>(list: readonly (() => Promise<T>)[]): Promise<T[]> {
  const out: T[] = [];
  for (const run of list) out.push(await run());
  return out;
}

/** What of the harbour the piece is measured against. */
const PLACES: readonly (readonly [string, Around])[] = [
  ['all of the plate', { whole: true }],
  ['a ring of 60 px', { ring: 60 }],
  ['a box of the quay on the other side', { box: [20, 236, 330, 404] }],
];

/** Half of the speed against the frames that the generator makes between: mean ΔE 2000, light without noise. */
async function betweenRows(root: string): Promise<string[][]> {
  const rows: string[][] = [];
  for (const [name, file, lane, frame, truthAt] of [
    ['SG060 mooring', 'sg060', 'mooring', 12, (f: number) => renderMooring(f, { ...SG060, noise: 0 })],
    ['SG060 mooring', 'sg060', 'mooring', 31, (f: number) => renderMooring(f, { ...SG060, noise: 0 })],
    ['SG050 slipway', 'sg050', 'slipway', 9, (f: number) => renderSlipway(f, { ...SG050, noise: 0 })],
    ['SG050 slipway', 'sg050', 'slipway', 30, (f: number) => renderSlipway(f, { ...SG050, noise: 0 })],
  ] as const) {
    const opened = await openShotFile(join(root, `demo/shots/${file}.json`));
    const host = await nodeHost(opened.files);
    const truth = truthAt(frame + 0.5);
    const told: string[] = [];
    for (const between of ['nearest', 'blend', 'motion']) {
      const shot = produce(opened.shot, (d) => {
        const own = d.lanes.find((l) => l.id === lane)!;
        own.steps = [
          { id: 'r', type: 'retime', name: 'r', on: true, params: { by: 'source', source: frame + 0.5, between }, mix: 1, feeds: {} },
        ];
        delete own.zones;
      });
      const { pixels, format } = await host.render(shot, { tap: { lane }, frame, scale: 1, channels: RGBA });
      const n = format.width * format.height;
      const planes = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => pixels[4 * i + c]!)) as Planes;
      const { mean, far } = apartFrom({ planes, w: format.width, h: format.height }, truth, () => true);
      told.push(`${mean.toFixed(2)} (${(100 * far).toFixed(1)} %)`);
    }
    rows.push([`${name}, ${frame}½`, ...told]);
  }
  return rows;
}

export async function seatingAccuracy(root: string): Promise<string> {
  return [
    await flowAccuracy(root),
    'Half of the speed: the frame between two, against the one that the generator makes there without noise. Mean ΔE 2000 over the frame (and the part over 6).',
    table(['frame', 'nearest', 'blend', 'along the motion'], await betweenRows(root)),
    await meterRows(root),
    'SG080: the buoy and its reflection against the buoy rendered in its place, without noise. Mean ΔE 2000 where it is seen (and the part over 6); the plate itself is as far from its own light by its noise and compression.',
    table(['', 'just laid over', 'seated', 'the plate itself'], await basinRows(root)),
    'A piece of SG010’s harbour, other in gain (1.5, 1.15, 0.85), lift and softness (σ 1.3 px), put back and matched by the meter’s rows alone: mean ΔE 2000 against the harbour.',
    table(
      ['measured against', 'as it comes', 'white', 'black', 'white', 'black'],
      await inTurn(
        PLACES.map(([name, around]) => async () => [name, ...(await harbourRows(root, around, ['white', 'black', 'white', 'black']))]),
      ),
    ),
  ].join('\n\n');
}
