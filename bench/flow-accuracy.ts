import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Kernels } from '@/kernels';
import { denseFlow, giveLevels, levelsOf } from '@/core/flow/dense';
import { consistency } from '@/core/flow/consistency';
import type { Gray } from '@/core/readings/gray';
import { nodeKernels } from '@/engine/node/host';
import { lumaOf } from './frames';
import type { FlowClip } from './flow-clips';
import { clipOf } from './flow-clips';
import { table } from './timing';

/** Motion by OpenCV's DIS at its medium preset, on the same pictures in 8 bits, one thread; null where it is not installed. */
function openCvDis(clips: readonly FlowClip[]): { u: Float32Array; v: Float32Array; ms: number }[] | null {
  const dir = mkdtempSync(join(tmpdir(), 'flow-'));
  try {
    clips.forEach((c, i) =>
      [c.from, c.to].forEach((g, k) =>
        writeFileSync(
          join(dir, `${i}-${k}`),
          Uint8Array.from(g.data, (x) => Math.max(0, Math.min(255, Math.round(255 * x)))),
        ),
      ),
    );
    const code = `
import cv2, numpy as np, time, sys
cv2.setNumThreads(1)
for i, (w, h) in enumerate(${JSON.stringify(clips.map((c) => [c.from.width, c.from.height]))}):
    a, b = [np.fromfile('${dir}/%d-%d' % (i, k), np.uint8).reshape(h, w) for k in (0, 1)]
    dis = cv2.DISOpticalFlow_create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    t = []
    for _ in range(5):
        s = time.perf_counter(); f = dis.calc(a, b, None); t.append(time.perf_counter() - s)
    f.astype(np.float32).tofile('${dir}/%d-f' % i)
    print(min(t) * 1000)`;
    const { status, stdout } = spawnSync('/usr/bin/python3', ['-c', code], { encoding: 'utf8' });
    if (status !== 0) return null;
    const times = stdout.trim().split('\n').map(Number);
    return clips.map((_, i) => {
      const bytes = readFileSync(join(dir, `${i}-f`));
      const both = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
      return { u: both.filter((_, k) => k % 2 === 0), v: both.filter((_, k) => k % 2 === 1), ms: times[i]! };
    });
  } finally {
    rmSync(dir, { recursive: true });
  }
}

interface Made {
  u: Float32Array;
  v: Float32Array;
  apart: Float32Array;
  ms: number;
}

function ours(kernels: Kernels, { from, to }: FlowClip, finest: number): Made {
  const { width: w, height: h } = from;
  const seen = (g: Gray): Float32Array => g.data.map((x) => 255 * x);
  let ms = Infinity;
  let made: Made | null = null;
  for (let k = 0; k < 3; k++) {
    const start = performance.now();
    const [a, b] = [levelsOf(kernels, seen(from), w, h), levelsOf(kernels, seen(to), w, h)];
    const there = denseFlow(kernels, a, b, { finest });
    ms = Math.min(ms, performance.now() - start);
    if (!made) {
      const back = denseFlow(kernels, b, a, { finest });
      const apart = consistency(kernels, there, back, w, h);
      made = { u: Float32Array.from(there.u), v: Float32Array.from(there.v), apart: Float32Array.from(apart), ms };
      [back.u, back.v, apart].forEach((p) => kernels.give(p));
    }
    [there.u, there.v].forEach((p) => kernels.give(p));
    [a, b].forEach((l) => giveLevels(kernels, l));
  }
  return { ...made!, ms };
}

/** Mean endpoint error in pixels, over what is seen on both frames or over what is hidden. */
function errorOf(clip: FlowClip, u: Float32Array, v: Float32Array, hidden: number): number {
  let [sum, n] = [0, 0];
  clip.hidden.forEach((hid, i) => {
    if (hid === hidden) [sum, n] = [sum + Math.hypot(u[i]! - clip.u[i]!, v[i]! - clip.v[i]!), n + 1];
  });
  return n ? sum / n : NaN;
}

/** How well `apart` finds what is hidden: of that the share that it calls so, and of what is seen the share that it does not. */
function found({ hidden }: FlowClip, apart: Float32Array): string {
  const count = [0, 0];
  const right = [0, 0];
  hidden.forEach((hid, i) => {
    count[hid]!++;
    if (Number(apart[i]! > 1) === hid) right[hid]!++;
  });
  const share = (k: number): string => (count[k] ? `${((100 * right[k]!) / count[k]!).toFixed(0)} %` : '—');
  return `${share(1)} / ${share(0)}`;
}

export async function flowClips(root: string): Promise<FlowClip[]> {
  const [wall, mooring, slipway, chart] = await Promise.all(
    [
      ['sg040', 'wall'],
      ['sg060', 'mooring'],
      ['sg050', 'slipway'],
      ['sg020', 'table'],
    ].map(async ([shot, lane]) => (await lumaOf(root, shot!, lane!))(12)),
  );
  const [w, h] = [960, 540];
  const middle: [number, number] = [480, 270];
  return [
    clipOf('a plate that drifts 3 px', [{ texture: wall!, middle, move: [2.6, -1.4] }], w, h, 0.01),
    clipOf('a plate that turns and grows', [{ texture: slipway!, middle, move: [4, 2], turn: 0.02, grow: 1.02 }], w, h, 0.01),
    clipOf(
      'a leaf of 180 px passes by 9 px over a drift',
      [
        { texture: mooring!, middle, move: [-2.3, 0.4] },
        { texture: chart!, middle: [430, 280], radii: [90, 120], move: [9.2, -2.5] },
      ],
      w,
      h,
      0.01,
    ),
    clipOf(
      'three leaves, up to 24 px, turning',
      [
        { texture: wall!, middle, move: [1.5, 0.5], grow: 1.005 },
        { texture: slipway!, middle: [250, 200], radii: [110, 80], move: [-14, 6], turn: 0.1 },
        { texture: mooring!, middle: [620, 330], radii: [70, 100], move: [24, 3], turn: -0.05 },
        { texture: chart!, middle: [480, 140], radii: [40, 40], move: [5, 8], grow: 1.06 },
      ],
      w,
      h,
      0.01,
    ),
    clipOf('the same drift in heavy grain', [{ texture: wall!, middle, move: [2.6, -1.4] }], w, h, 0.05),
  ];
}

export async function flowAccuracy(root: string): Promise<string> {
  const kernels = await nodeKernels();
  const clips = await flowClips(root);
  const theirs = openCvDis(clips);
  const rows = clips.map((clip, i) => {
    const made = ours(kernels, clip, 0);
    const quick = ours(kernels, clip, 1);
    const other = theirs?.[i];
    const pair = (m: { u: Float32Array; v: Float32Array } | undefined): string =>
      m ? `${errorOf(clip, m.u, m.v, 0).toFixed(3)} / ${errorOf(clip, m.u, m.v, 1).toFixed(2)}` : 'not installed';
    return [
      clip.name,
      pair(made),
      pair(quick),
      pair(other),
      found(clip, made.apart),
      `${(1000 / made.ms).toFixed(1)}, ${(1000 / quick.ms).toFixed(1)}, ${other ? (1000 / other.ms).toFixed(1) : '—'}`,
    ];
  });
  return [
    'Optical flow, 960×540: mean endpoint error in px, of what is seen on both frames / of what is hidden on the second. OpenCV\'s DIS at its medium preset works on every second pixel, as "every second" does.',
    '',
    table(['clip', 'every pixel', 'every second', 'DIS medium', 'hidden found / seen kept', 'pairs a second'], rows),
  ].join('\n');
}
