import { join } from 'node:path';
import { deltaE2000, labOf } from '@/core/colour/delta-e';
import { invert, multiply } from '@/core/geometry/fit';
import type { Homography } from '@/core/geometry/homography';
import { applyHomography, mapPoint } from '@/core/geometry/homography';
import { inPolygon } from '@/core/geometry/polygon';
import { RGBA } from '@/core/picture';
import type { Gray } from '@/core/readings/gray';
import { frameOf, grayFrame } from '@/core/readings/gray';
import { newPlane, newPoint } from '@/core/readings/make';
import { measurePlane, measurePoint } from '@/core/readings/measure';
import type { PointSettings } from '@/core/readings/point';
import { POINT_SETTINGS, PointTracker } from '@/core/readings/point';
import { steadied } from '@/core/readings/steady';
import type { PointReading, TrackReading } from '@/core/readings/types';
import { HARD_CLIPS } from '@/core/readings/testing';
import { ALL_PARTS, dataOf } from '@/core/readings/track-data';
import { filmed, handheld } from '@/demo/plate-scene';
import type { InFront } from '@/demo/plate-scene';
import { PANEL, SG020, renderTable, renderTide, tableAt } from '@/demo/sg020';
import { MARK, SG060_SAMPLES, mooringScene, shakeAt } from '@/demo/sg060';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node/host';
import { lumaOf } from './frames';
import { followAll, followPlaneOnce, maskOf, matOf, openCv, release } from './opencv';
import { table } from './timing';

const root = process.env.OSTRACON_ROOT ?? '.';
const SIZE = { width: 960, height: 540 };
const rms = (list: readonly number[]): number => Math.sqrt(list.reduce((s, v) => s + v * v, 0) / Math.max(1, list.length));
const px = (v: number): string => (v < 10 ? v.toFixed(3) : v.toFixed(0));

/** Luma as it is seen, of light as the generator makes it. */
function grayOf(light: Float32Array): Gray {
  const pixels = new Float32Array((light.length / 3) * 4);
  for (let i = 0; i < light.length / 3; i++) pixels.set([light[3 * i]!, light[3 * i + 1]!, light[3 * i + 2]!, 1], 4 * i);
  return grayFrame(pixels, { x0: 0, y0: 0, x1: SIZE.width, y1: SIZE.height }, SIZE, 'luma').read(0, 0, SIZE.width, SIZE.height);
}

interface Clip {
  name: string;
  frames: number;
  reference: number;
  gray(frame: number): Promise<Gray>;
  /** Where the detail is at a time, in the middle of the shutter for a whole number. */
  truth(time: number): readonly [number, number];
  /** How long the shutter is open, in frames, and the samples of it that make the picture. */
  shutter: number;
  samples: number;
  settings?: Partial<PointSettings>;
  /** Frames on which the detail is covered. */
  hidden?: (frame: number) => boolean;
}

const PATTERN: Partial<PointSettings> = { pattern: [-23, -25, 24, 26] };

/** Views of the mooring's scene that are harder than its plate, one way each. */
function stressClips(): Clip[] {
  const frames = 24;
  const clip = (
    name: string,
    more: {
      to?: (t: number) => Homography;
      noise?: number;
      shutter?: number;
      light?: (t: number) => number;
      front?: InFront;
      settings?: Partial<PointSettings>;
      hidden?: (f: number) => boolean;
    },
  ): Clip => {
    const to = more.to ?? shakeAt;
    const kept = new Map<number, Gray>();
    const shutter = more.shutter ?? 0.5;
    return {
      name,
      frames,
      shutter,
      samples: 8,
      reference: 1,
      settings: { ...PATTERN, ...more.settings },
      ...(more.hidden && { hidden: more.hidden }),
      truth: (f) => mapPoint(to(f), ...MARK),
      gray: (f) => {
        let gray = kept.get(f);
        if (!gray) {
          const light = more.light;
          const { plate } = filmed(
            mooringScene(),
            {
              ...SIZE,
              noise: more.noise ?? 0.02,
              seed: 99,
              shutter,
              samples: 8,
              toScene: (t) => invert(to(t))!,
              ...(more.front && { inFront: more.front }),
              ...(light && { light: (_x: number, _y: number, t: number) => light(t) }),
            },
            f,
          );
          kept.set(f, (gray = grayOf(plate)));
        }
        return Promise.resolve(gray);
      },
    };
  };
  const around = (turn: number, scale: number): Homography => {
    const [dx, dy] = [480 - MARK[0], 270 - MARK[1]];
    return multiply(handheld(turn, scale, 0, 0), [1, 0, dx, 0, 1, dy, 0, 0, 1]);
  };
  const wave = (t: number): number => Math.sin((2 * Math.PI * (t - 1)) / frames);
  const bar: InFront = (x, _y, t) => {
    const at = 380 + 22 * t;
    return Math.abs(x - at) < 45 ? [0.1 + 0.05 * Math.sin(0.3 * x), 0.12, 0.1, 1] : [0, 0, 0, 0];
  };
  const covered = (f: number): boolean => Math.abs(applyHomography(shakeAt(f), ...MARK)[0] - (380 + 22 * f)) < 45 + 24;
  return [
    clip('noise ×3', { noise: 0.06 }),
    clip('noise ×6', { noise: 0.12 }),
    clip('long shutter (360°)', { shutter: 1 }),
    clip('light ×0.5 to ×2', { light: (t) => 2 ** wave(t) }),
    clip('turn ±25°, shift only', { to: (t) => around((25 * Math.PI * wave(t)) / 180, 1) }),
    clip('turn ±25°, similarity', { to: (t) => around((25 * Math.PI * wave(t)) / 180, 1), settings: { model: 'similarity' } }),
    clip('scale ×0.7 to ×1.4, similarity', { to: (t) => around(0, 1.4 ** wave(t)), settings: { model: 'similarity' } }),
    clip('something passes in front', { front: bar, hidden: covered }),
  ];
}

/** Where a detail lies in a blurred picture: at the mean of its path while the shutter is open. */
function meanPlace({ truth, shutter, samples }: Clip, frame: number): readonly [number, number] {
  const places = Array.from({ length: samples }, (_, s) => truth(frame + shutter * ((s + 0.5) / samples - 0.5)));
  return [0, 1].map((k) => places.reduce((sum, p) => sum + p[k]!, 0) / samples) as [number, number];
}

/** A clip's figures: ours, and OpenCV's Lucas–Kanade from frame to frame. */
async function pointRow(c: Clip): Promise<string[]> {
  const made = newPoint(c.truth(c.reference), { reference: c.reference, range: { first: 1, last: c.frames } });
  const reading: PointReading = { ...made, settings: { ...made.settings, ...c.settings } };
  const frames = await measurePoint(await nodeKernels(), reading, { frame: async (f) => frameOf(await c.gray(f)) });
  const seen = frames.filter((f) => !c.hidden?.(f.frame));
  const off = (f: { frame: number; x: number; y: number }): number => Math.hypot(f.x - c.truth(f.frame)[0], f.y - c.truth(f.frame)[1]);
  // What is measured is a motion since the reference frame: of the picture's detail, not of a moment in it.
  const [home, [hx, hy]] = [c.truth(c.reference), meanPlace(c, c.reference)];
  const inPicture = (f: { frame: number; x: number; y: number }): number => {
    const [x, y] = meanPlace(c, f.frame);
    return Math.hypot(f.x - home[0] - (x - hx), f.y - home[1] - (y - hy));
  };
  const slips = seen.filter((f) => !f.flag && off(f) > 1).length;
  const theirs: number[] = [];
  const theirsInPicture: number[] = [];
  for (const direction of [1, -1]) {
    let at = c.truth(c.reference);
    let before = matOf(await c.gray(c.reference));
    for (let f = c.reference + direction; f >= 1 && f <= c.frames; f += direction) {
      const now = matOf(await c.gray(f));
      const next = followAll(before, now, [at[0] - 0.5, at[1] - 0.5], 49);
      if (next.found[0]) at = [next.points[0]! + 0.5, next.points[1]! + 0.5];
      if (!c.hidden?.(f)) {
        const there = { frame: f, x: at[0], y: at[1] };
        theirs.push(off(there));
        theirsInPicture.push(inPicture(there));
      }
      release(before);
      before = now;
    }
    release(before);
  }
  return [
    c.name,
    px(rms(seen.map(inPicture))),
    px(rms(seen.map(off))),
    px(Math.max(...seen.map(off))),
    String(frames.filter((f) => f.flag).length),
    String(slips),
    px(rms(theirsInPicture)),
    px(rms(theirs)),
    px(Math.max(...theirs)),
  ];
}

/** The plates as they are in the demo film, with noise and compression. */
async function plateClips(): Promise<Clip[]> {
  const gray = await lumaOf(root, 'sg060', 'mooring');
  const truth = (f: number): [number, number] => mapPoint(shakeAt(f), ...MARK);
  const clip = (name: string, settings: Partial<PointSettings>): Clip => ({
    name,
    frames: 48,
    reference: 24,
    gray,
    truth,
    shutter: 0.5,
    samples: SG060_SAMPLES,
    settings,
  });
  return [
    clip('SG060, the mark (47×51)', PATTERN),
    clip('SG060, the mark, similarity', { ...PATTERN, model: 'similarity' }),
    clip('SG060, pattern of 31×31', {}),
    clip('SG060, renewed every frame', { ...PATTERN, renew: 'every' }),
    clip('SG060, never renewed', { ...PATTERN, renew: 'never' }),
  ];
}

/** The chart table: corners of the panel against the truth, all frames and those on which the arm is in front. */
async function planeTable(): Promise<string> {
  const gray = await lumaOf(root, 'sg020-begun', 'table');
  const home = tableAt(1);
  const on = (x: number, y: number): [number, number] => mapPoint(home, x, y);
  const shape = (d: number): number[] => PANEL.flatMap(([x, y], i) => on(x + (i === 0 || i === 3 ? -d : d), y + (i < 2 ? -d : d)));
  const truth = (f: number): Homography => multiply(tableAt(f), invert(home)!);
  const corners = PANEL.map(([x, y]) => on(x, y));
  const offs = (f: number, m: Homography): number[] =>
    corners.map(([x, y]) => {
      const [[a, b], [u, v]] = [applyHomography(m, x, y), applyHomography(truth(f), x, y)];
      return Math.hypot(a - u, b - v);
    });
  const crossed = (f: number): boolean => f >= 14 && f <= 35;
  const row = (name: string, maps: readonly { frame: number; homography: Homography }[], flags: string): string[] => [
    name,
    px(rms(maps.flatMap((m) => offs(m.frame, m.homography)))),
    px(rms(maps.filter((m) => crossed(m.frame)).flatMap((m) => offs(m.frame, m.homography)))),
    px(Math.max(...maps.flatMap((m) => offs(m.frame, m.homography)))),
    flags,
  ];
  const rows: string[][] = [];
  for (const [name, region] of [
    ['frame and wall, the panel left out', { shapes: [shape(70)], without: [shape(-4)] }],
    ['everything around the panel', { shapes: [shape(70)], without: [] }],
    ['the panel and its marks alone', { shapes: [shape(4)], without: [] }],
  ] as const) {
    const reading = { ...newPlane([shape(70)], { reference: 1, range: { first: 1, last: 48 } }), region };
    const frames = await measurePlane(await nodeKernels(), reading, { frame: async (f) => frameOf(await gray(f)) });
    rows.push(row(name, frames, String(frames.filter((f) => f.flag).length)));
  }
  let map: Homography = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  const theirs = [{ frame: 1, homography: map }];
  let before = matOf(await gray(1));
  for (let f = 2; f <= 48; f++) {
    const now = matOf(await gray(f));
    const there = (p: readonly number[]): number[] =>
      Array.from({ length: p.length / 2 }, (_, i) => mapPoint(map, p[2 * i]!, p[2 * i + 1]!)).flat();
    const [outer, inner] = [there(shape(70)), there(shape(-4))];
    const mask = maskOf(960, 540, (x, y) => inPolygon(outer, x, y) && !inPolygon(inner, x, y));
    map = followPlaneOnce(before, now, mask, map);
    theirs.push({ frame: f, homography: map });
    [before, mask].forEach(release);
    before = now;
  }
  release(before);
  rows.push(row('OpenCV: Lucas–Kanade and RANSAC, frame to frame, the panel left out', theirs, '–'));
  return table(['plane', 'corner RMSE, px', 'RMSE while the arm crosses', 'largest, px', 'flagged'], rows);
}

/** What the finished chart table shows inside the panel, against the chart as it would have been filmed. */
async function insertFigures(): Promise<string> {
  const { shot, files } = await openShotFile(join(root, 'demo/shots/sg020.json'));
  const host = await nodeHost(files);
  const rows: string[][] = [];
  for (const frame of [4, 16, 24, 32, 44]) {
    const { pixels } = await host.render(shot, { tap: { lane: 'table' }, frame, scale: 1, channels: RGBA });
    const tide = renderTide(frame, 480, 320);
    const { plate, front } = renderTable(frame, { ...SG020, noise: 0 });
    const back = invert(tableAt(frame))!;
    let [sum, count] = [0, 0];
    let [held, armed] = [0, 0];
    for (let y = 0; y < 540; y++) {
      for (let x = 0; x < 960; x++) {
        const [u, v] = applyHomography(back, x + 0.5, y + 0.5);
        const [s, t] = [(u - PANEL[0][0]) / (PANEL[2][0] - PANEL[0][0]), (v - PANEL[0][1]) / (PANEL[2][1] - PANEL[0][1])];
        if (s < 0.02 || t < 0.02 || s > 0.98 || t > 0.98) continue;
        const i = y * 960 + x;
        const got = [pixels[4 * i]!, pixels[4 * i + 1]!, pixels[4 * i + 2]!] as const;
        if (front[i]! > 0.98) {
          held += deltaE2000(labOf(...got), labOf(plate[3 * i]!, plate[3 * i + 1]!, plate[3 * i + 2]!));
          armed++;
          continue;
        }
        if (front[i]! > 0) continue;
        // The board has 0.47 of light: what falls on it is known from the plate, but for the marks.
        const [cx, cy] = [Math.min(u - PANEL[0][0], PANEL[2][0] - u), Math.min(v - PANEL[0][1], PANEL[2][1] - v)];
        if (Math.abs(cx - 20) < 12 && Math.abs(cy - 20) < 12) continue;
        const at = 3 * (Math.min(319, Math.floor(t * 320)) * 480 + Math.min(479, Math.floor(s * 480)));
        const light = [0, 1, 2].map((c) => plate[3 * i + c]! / (0.4825 * [1, 0.97, 0.88][c]!));
        sum += deltaE2000(labOf(...got), labOf(tide[at]! * light[0]!, tide[at + 1]! * light[1]!, tide[at + 2]! * light[2]!));
        count++;
      }
    }
    rows.push([String(frame), (sum / count).toFixed(2), armed ? (held / armed).toFixed(2) : '–']);
  }
  return table(['frame', 'mean ΔE2000 on the chart', 'on the arm in front of it'], rows);
}

/** Locked on the mark: how far it still moves. */
async function lockResidual(): Promise<string> {
  const { shot } = await openShotFile(join(root, 'demo/shots/sg060.json'));
  const data = dataOf(shot.readings[0] as TrackReading, 1);
  const settings = { mode: 'lock', window: 24, parts: ALL_PARTS, fill: 'constant' } as const;
  const at = Array.from({ length: 48 }, (_, i) =>
    applyHomography(steadied(data, null, i + 1, settings, SIZE), ...mapPoint(shakeAt(i + 1), ...MARK)),
  );
  const mean = [0, 1].map((k) => at.reduce((s, p) => s + p[k]!, 0) / at.length);
  const scale = steadied(data, null, 1, settings, SIZE)[0];
  return `SG060 locked on its mark: the mark moves by ${px(rms(at.map((p) => Math.hypot(p[0] - mean[0]!, p[1] - mean[1]!))))} px RMS (asked: 0.1), filled at ×${scale.toFixed(4)}.`;
}

/** Clips on which a track goes wrong: how often it is off, and whether it says so. */
async function hardTable(): Promise<string> {
  const rows: string[][] = [];
  for (const c of HARD_CLIPS) {
    const tracker = new PointTracker(await nodeKernels(), { ...POINT_SETTINGS, pattern: c.pattern }, c.frame(1), ...c.truth(1));
    const frames = Array.from({ length: c.frames - 1 }, (_, i) => {
      const got = tracker.next(c.frame(i + 2), i + 2);
      const [x, y] = c.truth(i + 2);
      return { off: Math.hypot(got.x - x, got.y - y), flag: got.flag };
    });
    const over = frames.filter((f) => f.off > 1);
    const flags = [...new Set(frames.flatMap((f) => f.flag ?? []))].join(', ');
    rows.push([
      c.name,
      String(over.filter((f) => f.flag).length),
      String(over.filter((f) => !f.flag).length),
      String(frames.filter((f) => f.flag && f.off <= 1).length),
      px(Math.max(...frames.map((f) => f.off))),
      flags || 'none',
    ]);
  }
  return table(['clip', 'over 1 px, flagged', 'over 1 px, not flagged', 'flagged, within 1 px', 'largest, px', 'flags'], rows);
}

/** Points, planes and what is built on them. */
export async function readingAccuracy(): Promise<string> {
  await openCv();
  const points: string[][] = [];
  for (const c of [...(await plateClips()), ...stressClips()]) points.push(await pointRow(c));
  return `Point tracks: distance from the truth on every frame on which the detail is seen, flagged or not; "slips" are frames over 1 px off that are not flagged. Beside them OpenCV's
pyramidal Lucas–Kanade (its npm build, window 49, three levels) from frame to frame, on the same frames at 8 bits. The first five are the plate of the
demo film, 48 frames of JPEG; the others are rendered without compression, 24 frames. A detail that is blurred by its motion lies, in the picture, at the
mean of its path while the shutter is open: "RMSE in the picture" is against that; all other figures are against where it is in the middle of the
shutter, which no picture shows where the path is bent.

${table(['clip', 'RMSE in the picture, px', 'RMSE to mid-shutter, px', 'largest', 'flagged', 'slips', 'OpenCV in the picture', 'OpenCV to mid-shutter', 'its largest'], points)}

Points that are hard to follow, 19 frames each, moved by a hand and with noise (see core/readings/testing.ts):

${await hardTable()}

Plane tracks on SG020, 48 frames; the arm covers up to a third of the region for 22 of them (asked: 0.3 px).

${await planeTable()}

${await lockResidual()}

The finished SG020 inside its panel, against the chart as the generator would have filmed it, the plate's own light on it:

${await insertFigures()}`;
}
