import { deltaE2000, labOf } from '@/core/colour/delta-e';
import { floatOfId, idOfName } from '@/core/formats/cryptomatte';
import type { Param } from '@/core/document/types';
import { rect } from '@/core/geometry/rect';
import type { TestPicture, TestStep } from '@/core/testing/evaluate';
import { evaluate } from '@/core/testing/evaluate';
import { FOCAL } from '@/demo/diver-camera';
import type { Vec } from '@/demo/diver';
import { OBJECTS } from '@/demo/diver';
import type { TruthOptions } from '@/demo/diver-truth';
import { renderDiverTruth } from '@/demo/diver-truth';
import { renderQuay } from '@/demo/quay';
import type { DiverFrame } from '@/demo/sg030';
import { DIVER_FRAMES, renderDiver } from '@/demo/sg030';
import { table } from './timing';

/** Half the film's size: a truth of many rays a pixel takes its time. */
const [W, H] = [480, 270];
const FRAME = 7;
/** The lamp swings fastest about here. */
const MOVING = 1;
const SIZE = { width: W, height: H };
const LENS = { focal: (36 * (FOCAL * H)) / W, filmWidth: 36 };

type Planes = readonly Float32Array[];

/** A pass set as a picture of a test. */
function pictureOf({ bounds, planes }: DiverFrame): TestPicture {
  const w = bounds.x1 - bounds.x0;
  const fill = Object.fromEntries(
    Object.entries(planes).map(([c, plane]) => [c, (x: number, y: number) => plane[(y - bounds.y0) * w + x - bounds.x0]!]),
  );
  return { width: W, height: H, bounds, fill };
}

/** Light as it is seen: ΔE 2000 of two pictures over black, by pixel. */
function apart(a: Planes, b: Planes): Float32Array {
  return new Float32Array(a[0]!.length).map((_, i) =>
    deltaE2000(labOf(a[0]![i]!, a[1]![i]!, a[2]![i]!), labOf(b[0]![i]!, b[1]![i]!, b[2]![i]!)),
  );
}

const meanOf = (list: Float32Array, where: (i: number) => boolean = () => true): number => {
  let [sum, n] = [0, 0];
  list.forEach((v, i) => {
    if (where(i)) [sum, n] = [sum + v, n + 1];
  });
  return sum / Math.max(1, n);
};
const nth = (list: Float32Array, where: (i: number) => boolean, share: number): number => {
  const kept = list.filter((_, i) => where(i)).sort();
  return kept[Math.min(kept.length - 1, Math.floor(share * kept.length))] ?? 0;
};
const two = (v: number): string => v.toFixed(2);

async function made(pictures: Record<string, TestPicture>, steps: readonly TestStep[], channels = ['R', 'G', 'B', 'A']): Promise<Planes> {
  const got = await evaluate(pictures, steps, { channels, region: rect(0, 0, W, H) });
  return channels.map((c) => got.planes[c]!);
}

const part = (name: string, values: Record<string, Param> = {}): { list: { id: string; name: string }; params: Record<string, Param> } => ({
  list: { id: name, name },
  params: Object.fromEntries(Object.entries(values).map(([k, v]) => [`${name}.${k}`, v])),
});

/** A step with a list of parts. */
function withParts(type: string, list: string, parts: ReturnType<typeof part>[], more: Record<string, Param> = {}): TestStep {
  return {
    type,
    params: { [list]: parts.map((p) => p.list), ...Object.assign({}, ...parts.map((p) => p.params)), ...more } as TestStep['params'],
  };
}

const MATERIAL = ['diffuse', 'specular', 'reflection', 'emission'];
const all = (values: Record<string, Record<string, Param>> = {}): ReturnType<typeof part>[] => MATERIAL.map((m) => part(m, values[m]));

/** Where the picture or the truth has anything. */
const somewhere =
  (...pictures: Planes[]) =>
  (i: number): boolean =>
    pictures.some((p) => p[3]![i]! > 0);

async function rebuilt(): Promise<string[][]> {
  let [worst, left] = [0, 0];
  for (let f = DIVER_FRAMES.first; f <= DIVER_FRAMES.last; f += 4) {
    const frame = renderDiver(f, { ...SIZE, samples: 2 });
    const main = pictureOf(frame);
    // A neutral step is left out, which would prove nothing: here a part is changed where its mask is empty.
    const none: TestPicture = { width: W, height: H, fill: { R: 0, G: 0, B: 0, A: 0 } };
    const changed = withParts('rebuildBeauty', 'parts', all({ diffuse: { gain: 1, saturation: 0.5 } }));
    const got = await made({ main, none }, [{ ...changed, taps: { 'diffuse.mask': { lane: 'none' } } }]);
    const was = await made({ main }, []);
    got.forEach((p, c) => p.forEach((v, i) => (worst = Math.max(worst, Math.abs(v - was[c]![i]!)))));
    const sum = await made({ main }, [withParts('rebuildBeauty', 'parts', all(), { residual: 'drop' })]);
    sum.forEach((p, c) => p.forEach((v, i) => (left = Math.max(left, Math.abs(v - was[c]![i]!)))));
  }
  return [
    ['rebuild at neutral, 6 frames: greatest difference from the beauty', 'none', String(worst)],
    ['without what the passes leave out (the glass)', '', `up to ${two(left)}`],
  ];
}

async function relit(frame: DiverFrame): Promise<string[][]> {
  const o = { ...SIZE, samples: 16 };
  const main = pictureOf(frame);
  const warm: Vec = [0.5, 0.42, 0.3];
  const lamp = withParts('lightMix', 'lamps', [
    part('light_key'),
    part('light_rim', { gain: -1 }),
    part('light_lamp', { tint: [...warm] }),
    part('light_sky'),
  ]);
  const material = withParts('rebuildBeauty', 'parts', all({ specular: { gain: 1 }, diffuse: { tint: [0.8, 1, 1.1] } }));
  const changed: Partial<TruthOptions> = {
    lights: { rim: [0.5, 0.5, 0.5], lamp: warm },
    parts: { specular: [2, 2, 2], diffuse: [0.8, 1, 1.1] },
  };
  const truth = renderDiverTruth(FRAME, { ...o, ...changed });
  const lampTruth = renderDiverTruth(FRAME, { ...o, lights: changed.lights! });
  const partTruth = renderDiverTruth(FRAME, { ...o, parts: changed.parts! });
  const both = await made({ main }, [material, lamp]);
  const sum = await made({ main }, [material, { ...lamp, params: { ...lamp.params, method: 'sum' } }]);
  const here = somewhere(truth, both);
  // Two renders of the same with other rays differ so much: no figure can be lower.
  const floor = meanOf(apart(await made({ main }, []), renderDiverTruth(FRAME, o)), here);
  const d = apart(both, truth);
  const one = meanOf(apart(await made({ main }, [lamp]), lampTruth), here);
  const other = meanOf(apart(await made({ main }, [material]), partTruth), here);
  const nothing = meanOf(apart(await made({ main }, []), truth), here);
  return [
    ['two renders of the same, other rays (what noise leaves): ΔE mean', '', two(floor)],
    ['lamps changed alone: ΔE mean', '≤ 0.5', two(one)],
    ['material changed alone: ΔE mean', '≤ 0.5', two(other)],
    ['lamp groups and material, by ratio: ΔE mean, 95 %', '≤ 0.5', `${two(meanOf(d, here))}, ${two(nth(d, here, 0.95))}`],
    ['the same, by difference', '', two(meanOf(apart(sum, truth), here))],
    ['unchanged against that truth', '', two(nothing)],
  ];
}

/** Sees the passes over a card with the quay on it. */
function overQuay(frame: DiverFrame): { pictures: Record<string, TestPicture>; at: (x: number, y: number) => Vec; join: TestStep } {
  const quay = smoothed(renderQuay(FRAME, W, H));
  const at = (x: number, y: number): Vec => {
    const [u, v] = [Math.min(W - 1.001, Math.max(0, x - 0.5)), Math.min(H - 1.001, Math.max(0, y - 0.5))];
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const pixel = (a: number, b: number, c: number): number => quay[3 * (b * W + a) + c]!;
    return [0, 1, 2].map((c) => {
      const top = pixel(i, j, c) * (1 - u + i) + pixel(i + 1, j, c) * (u - i);
      const low = pixel(i, j + 1, c) * (1 - u + i) + pixel(i + 1, j + 1, c) * (u - i);
      return top * (1 - v + j) + low * (v - j);
    }) as Vec;
  };
  const light = (c: number) => (x: number, y: number) => quay[3 * (y * W + x) + c]!;
  const main: TestPicture = { width: W, height: H, fill: { R: light(0), G: light(1), B: light(2), A: 1 } };
  return {
    pictures: { main, front: pictureOf(frame) },
    at,
    join: { type: 'joinDepth', params: { backDepth: CARD, ...LENS }, feeds: ['front'] },
  };
}
const CARD = 11;

/** Without noise, which the truth would have to have to the pixel, and without detail that a look between pixels softens. */
function smoothed(rgb: Float32Array): Float32Array {
  const out = new Float32Array(rgb.length);
  for (let y = 0; y < H; y++) {
    for (let x = 0; x < W; x++) {
      for (let v = -3; v <= 3; v++) {
        for (let u = -3; u <= 3; u++) {
          const i = Math.min(H - 1, Math.max(0, y + v)) * W + Math.min(W - 1, Math.max(0, x + u));
          for (let c = 0; c < 3; c++) out[3 * (y * W + x) + c]! += rgb[3 * i + c]! / 49;
        }
      }
    }
  }
  return out;
}

/** Pixels within `reach` of a step of depth: of the diver's outline and of the things in front of it. */
function nearSteps(depth: Float32Array, reach: number): Uint8Array {
  const near = new Uint8Array(W * H);
  for (let y = 1; y < H; y++) {
    for (let x = 1; x < W; x++) {
      const i = y * W + x;
      if (Math.abs(depth[i]! - depth[i - 1]!) < 0.25 && Math.abs(depth[i]! - depth[i - W]!) < 0.25) continue;
      for (let v = Math.max(0, y - reach); v <= Math.min(H - 1, y + reach); v++) {
        for (let u = Math.max(0, x - reach); u <= Math.min(W - 1, x + reach); u++) near[v * W + u] = 1;
      }
    }
  }
  return near;
}

async function focused(frame: DiverFrame): Promise<string[][]> {
  const { pictures, at, join } = overQuay(frame);
  const rows: string[][] = [];
  const depth = (await made(pictures, [join], ['Z']))[0]!;
  const near = nearSteps(depth, 10);
  const plainDepth = depth.map((z) => Math.min(z, 100));
  const pupil = 0.5;
  for (const [name, focus] of [
    ['the diver', 6.1],
    ['the quay', CARD],
  ] as const) {
    const truth = renderDiverTruth(FRAME, { ...SIZE, samples: 64, lens: { radius: pupil / 2, focus }, backdrop: { depth: CARD, at } });
    const infinity = (pupil / 2 / focus) * FOCAL * H;
    const got = await made(pictures, [join, { type: 'depthOfField', params: { focus, by: 'px', infinity, most: 60, ...LENS } }]);
    const d = apart(got, truth);
    const plain = blurByDepth(await made(pictures, [join]), plainDepth, (z) => Math.abs(infinity * (1 - focus / z)));
    const e = apart(plain, truth);
    const edge = (i: number): boolean => near[i] === 1;
    rows.push([`focus on ${name}: ΔE mean; within 10 px of steps of depth`, '≤ 2.5; ≤ 5', `${two(meanOf(d))}; ${two(meanOf(d, edge))}`]);
    rows.push(['a plain blur by depth', '', `${two(meanOf(e))}; ${two(meanOf(e, edge))}`]);
  }
  return rows;
}

/** What a blur does that takes each pixel's own radius and looks around it, whatever is in front of what. */
function blurByDepth(picture: Planes, depth: Float32Array, radius: (z: number) => number): Planes {
  const out = [0, 1, 2, 3].map(() => new Float32Array(W * H));
  for (let y = 0; y < H; y++) {
    for (let x = 0; x < W; x++) {
      const r = radius(depth[y * W + x]!);
      const reach = Math.floor(r);
      let n = 0;
      for (let v = Math.max(0, y - reach); v <= Math.min(H - 1, y + reach); v++) {
        for (let u = Math.max(0, x - reach); u <= Math.min(W - 1, x + reach); u++) {
          if ((u - x) ** 2 + (v - y) ** 2 > r * r && (u !== x || v !== y)) continue;
          n++;
          for (let c = 0; c < 4; c++) out[c]![y * W + x]! += picture[c]![v * W + u]!;
        }
      }
      for (let c = 0; c < 4; c++) out[c]![y * W + x]! /= n;
    }
  }
  return out;
}

async function moved(): Promise<string[][]> {
  const frame = renderDiver(MOVING, { ...SIZE, samples: 16 });
  const { pictures, at, join } = overQuay(frame);
  const rows: string[][] = [];
  for (const [name, shutter] of [
    ['a shutter of 180°', 0.5],
    ['six frames long', 6],
  ] as const) {
    const truth = renderDiverTruth(MOVING, { ...SIZE, samples: 64, shutter, backdrop: { depth: CARD, at } });
    const params = { shutter: 360 * shutter, phase: -180 * shutter, samples: 65, ...LENS };
    const d = apart(await made(pictures, [join, { type: 'vectorBlur', params }]), truth);
    const e = apart(await made(pictures, [join]), truth);
    const here = (i: number): boolean => d[i]! > 0 && e[i]! > 0.2;
    rows.push([`vector blur, ${name}: ΔE mean; where it moves`, '≤ 1.5', `${two(meanOf(d))}; ${two(meanOf(d, here))}`]);
    rows.push(['no blur', '', `${two(meanOf(e))}; ${two(meanOf(e, here))}`]);
  }
  return rows;
}

async function lampAdded(frame: DiverFrame): Promise<string[][]> {
  const main = pictureOf(frame);
  const lamps = [{ at: [-1.05, 0.55, 0.65] as Vec, colour: [1.1, 0.7, 0.4] as Vec }];
  const truth = renderDiverTruth(FRAME, { ...SIZE, samples: 16, lamps, addedOnly: true });
  const step = (shadow: boolean): TestStep =>
    withParts('relight', 'lamps', [part('new', { at: [...lamps[0]!.at], tint: [...lamps[0]!.colour], shadow, radius: 0 })], {
      gives: 'light',
      thick: 0.25,
    });
  const squares = async (s: TestStep): Promise<number> => {
    const got = await made({ main }, [s]);
    let [sum, n] = [0, 0];
    for (let c = 0; c < 3; c++) got[c]!.forEach((v, i) => truth[3]![i]! > 0 && ((sum += (v - truth[c]![i]!) ** 2), n++));
    return sum / n;
  };
  const [open, shadowed] = [await squares(step(false)), await squares(step(true))];
  return [
    [
      'a lamp beyond the bollard, with shadow: mean square error beside without',
      '≤ ¼',
      `${(shadowed / open).toFixed(3)} (${shadowed.toExponential(1)} beside ${open.toExponential(1)})`,
    ],
  ];
}

async function covered(frame: DiverFrame): Promise<string[][]> {
  const main = pictureOf(frame);
  let worst = 0;
  for (const name of OBJECTS) {
    const id = idOfName(name);
    const params = { things: [{ id: id.toString(16).padStart(8, '0'), name }] } as unknown as TestStep['params'];
    const [matte] = await made({ main }, [{ type: 'idMatte', ...(params && { params }) }]);
    const w = frame.bounds.x1 - frame.bounds.x0;
    for (let i = 0; i < matte!.length; i++) {
      const [x, y] = [i % W, Math.floor(i / W)];
      const { x0, y0, x1, y1 } = frame.bounds;
      const j = x < x0 || x >= x1 || y < y0 || y >= y1 ? -1 : (y - y0) * w + x - x0;
      let truth = 0;
      for (const l of ['00', '01'])
        for (const [c, v] of [
          ['R', 'G'],
          ['B', 'A'],
        ] as const)
          if (j >= 0 && frame.planes[`CryptoObject${l}.${c}`]![j] === floatOfId(id)) truth += frame.planes[`CryptoObject${l}.${v}`]![j]!;
      worst = Math.max(worst, Math.abs(matte![i]! - truth));
    }
  }
  return [['Cryptomatte: greatest difference from the coverage of each object', '≤ 0.004', worst.toExponential(1)]];
}

/** Passes of renders against the generator, which renders the diver again as each step says. */
export async function passAccuracy(): Promise<string> {
  const frame = renderDiver(FRAME, { ...SIZE, samples: 16 });
  const rows = [
    ...(await rebuilt()),
    ...(await relit(frame)),
    ...(await focused(frame)),
    ...(await moved()),
    ...(await lampAdded(frame)),
    ...(await covered(frame)),
  ];
  return [
    `SG030 at ${W}×${H}, frame ${FRAME}; the truth is another render of the same scene.`,
    '',
    table(['what', 'at least', 'measured'], rows),
  ].join('\n');
}
