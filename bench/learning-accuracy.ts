import { join } from 'node:path';
import { produce } from 'immer';
import { deltaE2000, labOf } from '@/core/colour/delta-e';
import type { Shot } from '@/core/document/types';
import { alongFlow } from '@/core/flow/along';
import { flowOf, seenLuma } from '@/core/flow/pair';
import { rect } from '@/core/geometry/rect';
import { Applied, meanSpread } from '@/core/learn/apply';
import type { Learnt } from '@/core/learn/apply';
import { featuresOf, teachMost } from '@/core/learn/choose';
import type { Example, Teaches } from '@/core/learn/lesson';
import { setsOf, variationFor } from '@/core/learn/lesson';
import { LookPlanes, lookOf } from '@/core/learn/look';
import { judged } from '@/core/learn/progress';
import type { TrainingInput } from '@/core/learn/trainer';
import { RGBA } from '@/core/picture';
import { DRAWN, GREEN_COAT, renderKeeper } from '@/demo/sg010';
import { SG040, renderCleanWall, renderEmptyWall, renderWall } from '@/demo/sg040';
import { shownOf } from '@/engine/lesson-input';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node/host';
import { trainInNode } from '@/engine/node/training';
import type { Session } from '@/engine/training';
import { newStep } from '@/core/commands/make';
import { table } from './timing';

const [W, H] = [960, 540];
const N = W * H;
/** Frames that were not drawn. */
const OTHERS = [1, 9, 12, 24, 27, 33, 36, 48];

interface Clip {
  frame: number;
  input: Float32Array;
  alpha: Float32Array;
}

const mean = (list: readonly number[]): number => list.reduce((s, v) => s + v, 0) / Math.max(1, list.length);
const channels = (input: Float32Array): Float32Array[] => [0, 1, 2].map((c) => input.subarray(c * N, (c + 1) * N));

/** Mean absolute error of a matte, and that of the pixels which are partly covered. */
function errorOf(matte: Float32Array, truth: Float32Array): [whole: number, partly: number] {
  let [all, some, count] = [0, 0, 0];
  for (let i = 0; i < N; i++) {
    const off = Math.abs(matte[i]! - truth[i]!);
    all += off;
    if (truth[i]! <= 0.02 || truth[i]! >= 0.98) continue;
    some += off;
    count++;
  }
  return [all / N, some / Math.max(1, count)];
}

type Trained = { at: number; learnt: Learnt; steps: number };

/** What was learnt after so many seconds of training in two workers. */
async function learntAfter(input: TrainingInput, seconds: readonly number[], entry: URL): Promise<Trained[]> {
  const made: Trained[] = [];
  let training: Session | null = null;
  const { stop } = await trainInNode(
    input,
    () => made.length === seconds.length,
    (r) => {
      const at = seconds[made.length]!;
      if (r.seconds < at) return;
      made.push({ at, steps: r.step, learnt: { teaches: input.teaches, weights: training!.trainer.means.slice(), look: input.look } });
    },
    entry,
    (s) => (training = s),
  );
  await stop();
  return made;
}

async function applied(learnt: Learnt, input: Float32Array): Promise<Float32Array[]> {
  const kernels = await nodeKernels();
  const net = new Applied(kernels, learnt);
  const out = Array.from({ length: setsOf(learnt.teaches) }, () => new Float32Array(N));
  net.run(channels(input), W, H, out, () => undefined);
  net.dispose();
  return out;
}

/** Blurred along x as by a fast move, picture and coverage alike. */
function moved(plane: Float32Array, reach = 13): Float32Array {
  const half = (reach - 1) / 2;
  return plane.map((_, i) => {
    const [row, x] = [Math.floor(i / W) * W, i % W];
    let sum = 0;
    for (let k = -half; k <= half; k++) sum += plane[row + Math.min(W - 1, Math.max(0, x + k))]!;
    return sum / reach;
  });
}

/** The other way round, as if what is seen had turned: planes after each other. */
const mirrored = (planes: Float32Array): Float32Array => planes.map((_, i) => planes[Math.floor(i / W) * W + W - 1 - (i % W)]!);

export async function learningAccuracy(root: string, entry: URL): Promise<string> {
  const coat = await greenCoat(root, entry);
  process.stderr.write(`${coat}\n`);
  return [coat, await wall(root, entry)].join('\n\n');
}

export async function greenCoat(root: string, entry: URL): Promise<string> {
  const { shot, files } = await openShotFile(join(root, 'demo/shots/sg010-coat.json'));
  const host = await nodeHost(files);
  const kernels = await nodeKernels();
  const look = async (of: Shot, lane: string, frame: number, after?: string): Promise<ReturnType<typeof shownOf>> =>
    shownOf(await host.render(of, { tap: { lane, ...(after !== undefined && { after }) }, frame, scale: 1, channels: RGBA }));
  const clip = async (frame: number): Promise<Clip> => ({
    frame,
    input: (await look(shot, 'coat', frame, '')).input,
    alpha: renderKeeper(frame, GREEN_COAT).alpha,
  });
  const drawn: Clip[] = [];
  for (const f of DRAWN) drawn.push(await clip(f));
  const others: Clip[] = [];
  for (const f of OTHERS) others.push(await clip(f));
  const examples = drawn.map(({ frame, input, alpha }): Example => ({ frame, width: W, height: H, input, target: alpha, held: false }));
  const nearest = (frame: number): Clip => drawn.reduce((a, b) => (Math.abs(b.frame - frame) < Math.abs(a.frame - frame) ? b : a));
  const input: TrainingInput = { teaches: 'matte', examples, variation: variationFor('matte'), look: lookOf(examples, 'matte'), seed: 1 };

  const rows: string[][] = [];
  const row = (name: string, errors: readonly (readonly [number, number])[]): void =>
    void rows.push([
      name,
      mean(errors.map(([a]) => a)).toFixed(4),
      Math.max(...errors.map(([a]) => a)).toFixed(4),
      mean(errors.map(([, b]) => b)).toFixed(3),
    ]);
  // Without learning.
  const keyed = produce(shot, (d) => {
    const step = { ...newStep('screenKey', []), params: { screenColour: [0.047, 0.256, 0.075], output: 'matte' } };
    d.lanes.push({
      id: 'key',
      name: 'key',
      start: { tap: { lane: 'coat', after: '' } },
      steps: [step],
      muted: false,
      collapsed: false,
    } as never);
  });
  row('a key alone', await Promise.all(others.map(async (o) => errorOf((await look(keyed, 'key', o.frame)).alpha, o.alpha))));
  const colours = new LookPlanes(kernels, input.look);
  row(
    'the table of colours alone',
    others.map((o) => {
      const [planes, out] = [kernels.copy(o.input), kernels.take(4 * N)];
      const at = planes.byteOffset;
      colours.row(at, at + 4 * N, at + 8 * N, out.byteOffset, N);
      const matte = Float32Array.from({ length: N }, (_, i) => (out[4 * i + 3]! + 1) / 2);
      [planes, out].forEach((p) => kernels.give(p));
      return errorOf(matte, o.alpha);
    }),
  );
  colours.dispose();
  row(
    'the nearest drawn frame, held',
    others.map((o) => errorOf(nearest(o.frame).alpha, o.alpha)),
  );
  row(
    'the nearest drawn frame, moved by optical flow',
    others.map((o) => {
      const from = nearest(o.frame);
      const luma = (x: Clip): Float32Array => kernels.copy(seenLuma(...(channels(x.input) as [Float32Array, Float32Array, Float32Array])));
      const [a, b] = [luma(o), luma(from)];
      const flow = flowOf(kernels, a, b, W, H, () => undefined);
      const [alpha, out] = [kernels.copy(from.alpha), kernels.take(N)];
      alongFlow(kernels, [alpha], [out], rect(0, 0, W, H), flow, () => undefined);
      const error = errorOf(out, o.alpha);
      [a, b, flow.u, flow.v, alpha, out].forEach((p) => kernels.give(p));
      return error;
    }),
  );

  const errorsOf = async (learnt: Learnt, change: (o: Clip) => Clip): Promise<[number, number][]> => {
    const all: [number, number][] = [];
    for (const o of others.map(change)) all.push(errorOf((await applied(learnt, o.input))[0]!, o.alpha));
    return all;
  };
  const turned = (o: Clip): Clip => ({ ...o, input: mirrored(o.input), alpha: mirrored(o.alpha) });
  const trained = await learntAfter(input, [60, 300], entry);
  const gain = (frame: number): number => 2 ** Math.sin((2 * Math.PI * (frame - 3)) / 31);
  for (const { at, learnt, steps } of trained) {
    const name = `learnt, ${at / 60} ${at === 60 ? 'minute' : 'minutes'} (${steps} steps)`;
    const errors = (change: (o: Clip) => Clip) => errorsOf(learnt, change);
    row(name, await errors((o) => o));
    row('— the light changed by up to a stop either way', await errors((o) => ({ ...o, input: o.input.map((v) => v * gain(o.frame)) })));
    row(
      '— blurred by a move of 13 px',
      await errors((o) => ({
        ...o,
        input: Float32Array.from([0, 1, 2].flatMap((c) => [...moved(o.input.slice(c * N, (c + 1) * N))])),
        alpha: moved(o.alpha),
      })),
    );
    row('— turned the other way', await errors(turned));
  }
  // Where heads turn, pieces are to be mirrored, too.
  const either = await learntAfter({ ...input, variation: { ...input.variation, mirror: 0.5 } }, [100], entry);
  for (const { learnt, steps, at } of either) {
    row(`learnt with Mirrored at 0.5, ${at} s (${steps} steps)`, await errorsOf(learnt, (o) => o));
    row('— turned the other way', await errorsOf(learnt, turned));
  }

  // Frames of which some are unlike anything that was drawn: much darker, much brighter, blurred by a whole step.
  const { learnt } = trained.at(-1)!;
  const harder = others.flatMap((o, i): Clip[] => [
    { ...o, frame: o.frame },
    { ...o, frame: o.frame + 100, input: o.input.map((v) => v * 1.06) },
    ...(i % 3 === 0 ? [{ ...o, frame: o.frame + 200, input: o.input.map((v) => v * (i % 2 ? 3.6 : 0.24)) }] : []),
  ]);
  const spreads: { frame: number; spread: number; error: number }[] = [];
  for (const o of harder) {
    const net = new Applied(kernels, learnt);
    spreads.push({
      frame: o.frame,
      spread: meanSpread(net, o.input, W, H),
      error: errorOf((await applied(learnt, o.input))[0]!, o.alpha)[0],
    });
    net.dispose();
  }
  const usual = [...spreads].sort((a, b) => a.error - b.error)[Math.floor(spreads.length / 2)]!.error;
  const bad = spreads.filter((s) => s.error > 2 * usual).map((s) => s.frame);
  const flagged = judged(spreads)
    .filter((f) => f.flag)
    .map((f) => f.frame);
  const found = flagged.filter((f) => bad.includes(f));
  const chosen = teachMost(
    [...drawn, ...others].map((c) => ({ frame: c.frame, features: featuresOf({ width: W, height: H, input: c.input }) })),
    [],
    4,
  );
  return [
    '### SG010’s green coat: 4 drawn frames of 48, eight of the others',
    '',
    table(['', 'mean error', 'worst frame', 'partly covered'], rows),
    '',
    `Sureness: of ${spreads.length} frames, ${bad.length} have over twice the median error; ${found.length} of them are flagged, ` +
      `${flagged.length - found.length} of ${flagged.length} flags are false. Frames that it would have drawn first: ${chosen.join(', ')}.`,
  ].join('\n');
}

/** Frames whose wall is made clean by hand. */
const CLEANED = [8, 25, 41];
const TESTED = [1, 4, 13, 17, 21, 30, 34, 38, 45, 48];

interface Wall {
  input: Float32Array;
  target: Float32Array;
  /** The wall as it is, without noise. */
  bare: Float32Array;
  marks: Uint8Array;
  front: Float32Array;
}

export async function wall(root: string, entry: URL): Promise<string> {
  const { shot, files } = await openShotFile(join(root, 'demo/shots/sg040.json'));
  const host = await nodeHost(files);
  const plate = async (frame: number): Promise<Float32Array> =>
    shownOf(await host.render(shot, { tap: { lane: 'wall', after: '' }, frame, scale: 1, channels: RGBA })).input;
  const planar = (rgb: Float32Array): Float32Array => Float32Array.from({ length: 3 * N }, (_, i) => rgb[3 * (i % N) + Math.floor(i / N)]!);
  /** What is right: the wall without box and mark where those are, behind whoever passes; and where that is. */
  const truth = async (frame: number): Promise<Wall> => {
    const input = await plate(frame);
    const still = { ...SG040, noise: 0 };
    const [bare, empty] = [planar(renderCleanWall(frame, still)), planar(renderEmptyWall(frame, still))];
    const grain = planar(renderCleanWall(frame, SG040));
    const { front } = renderWall(frame, still);
    const marks = new Uint8Array(N);
    const target = input.slice();
    for (let i = 0; i < N; i++) {
      let most = 0;
      for (let c = 0; c < 3; c++) most = Math.max(most, Math.abs(bare[c * N + i]! - empty[c * N + i]!));
      if (most < 0.002) continue;
      marks[i] = 1;
      for (let c = 0; c < 3; c++) target[c * N + i] = grain[c * N + i]! * (1 - front[i]!) + input[c * N + i]! * front[i]!;
    }
    return { input, target, bare, marks, front };
  };
  const examples: Example[] = [];
  for (const frame of CLEANED) examples.push({ frame, width: W, height: H, held: false, ...(await truth(frame)) });
  const others = await Promise.all([1, 12, 20, 29, 36, 46].map(async (f) => ({ width: W, height: H, input: await plate(f) })));
  const teaches: Teaches = 'change';
  const input: TrainingInput = { teaches, examples, others, variation: variationFor(teaches), look: lookOf(examples, teaches), seed: 1 };
  const tests: Awaited<ReturnType<typeof truth>>[] = [];
  for (const f of TESTED) tests.push(await truth(f));
  const rows: string[][] = [];
  const score = (name: string, results: readonly Float32Array[][]): void => {
    let [under, n, front, passers, elsewhere, rest] = [0, 0, 0, 0, 0, 0];
    results.forEach((out, k) => {
      const t = tests[k]!;
      const at = (p: readonly Float32Array[], i: number) => labOf(p[0]![i]!, p[1]![i]!, p[2]![i]!);
      const [want, was] = [channels(t.bare), channels(t.input)];
      for (let i = 0; i < N; i += 3) {
        if (t.marks[i] && t.front[i]! < 0.01) {
          under += deltaE2000(at(out, i), at(want, i));
          n++;
        } else if (t.front[i]! > 0.99) {
          front += deltaE2000(at(out, i), at(was, i));
          passers++;
        } else if (!t.marks[i] && t.front[i]! < 0.01) {
          elsewhere += deltaE2000(at(out, i), at(was, i));
          rest++;
        }
      }
    });
    rows.push([name, (under / n).toFixed(2), (front / passers).toFixed(2), (elsewhere / rest).toFixed(3)]);
  };
  score(
    'as filmed',
    tests.map((t) => channels(t.input)),
  );
  const patched: Float32Array[][] = [];
  for (const f of TESTED)
    patched.push(channels(shownOf(await host.render(shot, { tap: { lane: 'wall' }, frame: f, scale: 1, channels: RGBA })).input));
  score('SG040 as the demo has it: patch for the box, mosaic on the mark', patched);
  for (const { at, learnt, steps } of await learntAfter(input, [120, 300, 600], entry)) {
    const made: Float32Array[][] = [];
    for (const t of tests) made.push((await applied(learnt, t.input)).slice(0, 3));
    score(`learnt, ${at / 60} minutes (${steps} steps)`, made);
  }
  return [
    '### SG040: box and mark learnt away from three clean frames, with the light of others',
    '',
    table(['ΔE2000, mean of ten frames', 'under the marks', 'passers', 'elsewhere'], rows),
  ].join('\n');
}
