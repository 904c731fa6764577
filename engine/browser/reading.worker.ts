import type { Plane } from '@/kernels';
import type { Rect } from '@/core/geometry';
import { height, intersect, rect, width } from '@/core/geometry';
import type { LightFit, SeenPlanes } from '@/core/cleaning';
import { lightOfRing, planesOf } from '@/core/cleaning';
import type { ChannelGrain, GrainLook } from '@/core/grain';
import { measureGrain } from '@/core/grain';
import { DEFAULT_OUTPUT } from '@/core/formats';
import type { ChartFrame, Lens, SolvedReading, StraightLine } from '@/core/lens';
import { lensJob, measureChart, measureLine, snapCrossing, solveReading, stMapOf } from '@/core/lens';
import type { SceneView, SurfaceParams, SurfacePasses } from '@/core/passes';
import { cloudOf, readSurface } from '@/core/passes';
import type { Format, PictureInfo } from '@/core/picture';
import type { Cloud, View } from '@/core/render';
import type { Around, Figures } from '@/core/seating';
import { figuresOf, lookAround, lookAtElement } from '@/core/seating';
import type {
  Anchor,
  Gray,
  LensReading,
  Pictures,
  PlaceDoubt,
  PlaneFrame,
  PointFrame,
  PointSettings,
  Reading,
  TrackReading,
} from '@/core/readings';
import { calmed, followPlane, followPoint, goodFeatures, grayFrame, judgePlace } from '@/core/readings';
import type { Shape } from '@/core/shape';
import { lookOf, snapBetween } from '@/core/shape';
import type { Assessed, CameraScene, FindProgress, FindSettings, FoundTrack, SolveInput, SolveStage } from '@/core/space';
import { findTracks, pictureCloud, solveCamera } from '@/core/space';
import { encodeMedia } from '../codecs';
import { workerKernels } from './kernels';
import { serve } from './protocol';

/** Pixels as a host delivers them, at full size. */
export interface Seen {
  pixels: Float32Array;
  region: Rect;
  format: { width: number; height: number };
}

/** What the page gives: frames of the picture that is measured and of its matte; and what it is told. */
export interface PageSide {
  frame(frame: number): Promise<Seen>;
  matte(frame: number): Promise<Seen>;
  /** Each result as it comes; false ends the work. */
  told(result: PointFrame | PlaneFrame): Promise<boolean>;
}

/** A detail that is good to follow, and why. */
export interface Suggestion {
  x: number;
  y: number;
  strength: number;
  why: string;
}

/** What a host delivered, or a box of it. */
function looksAt({ pixels, region, format }: Seen, box: readonly [number, number, number, number] | null): GrainLook {
  const [x0, y0, x1, y1] = box ?? [0, 0, format.width, format.height];
  const part = intersect(
    rect(Math.floor(Math.min(x0, x1)), Math.floor(Math.min(y0, y1)), Math.ceil(Math.max(x0, x1)), Math.ceil(Math.max(y0, y1))),
    region,
  );
  const [w, h, stride] = [width(part), height(part), width(region)];
  const plane = (c: number): Float32Array =>
    Float32Array.from(
      { length: w * h },
      (_, i) => pixels[4 * ((part.y0 - region.y0 + Math.floor(i / w)) * stride + part.x0 - region.x0 + (i % w)) + c]!,
    );
  return { w, h, planes: [0, 1, 2].map(plane) };
}

const wholeOf = ({ pixels, region, format }: Seen, channel: Reading['channel']): Gray =>
  grayFrame(pixels, region, format, channel).read(0, 0, format.width, format.height);

const api = {
  async measure(reading: TrackReading, anchor: Anchor, page: PageSide): Promise<void> {
    const pictures: Pictures = {
      async frame(f) {
        const { pixels, region, format } = await page.frame(f);
        return grayFrame(pixels, region, format, reading.channel);
      },
    };
    if (reading.kind === 'plane' && reading.matte) {
      const { invert } = reading.matte;
      pictures.matte = async (f): Promise<Gray> => {
        const { pixels, region, format } = await page.matte(f);
        const gray = grayFrame(pixels, region, format, 'alpha').read(0, 0, format.width, format.height);
        if (invert) for (let i = 0; i < gray.data.length; i++) gray.data[i] = 1 - gray.data[i]!;
        return gray;
      };
    }
    const results =
      reading.kind === 'point'
        ? followPoint(await workerKernels(), reading, anchor, pictures)
        : followPlane(await workerKernels(), reading, anchor, pictures);
    for await (const result of results) if (!(await page.told(result))) return;
  },

  /** Features found and followed through a range; `matte` gives those of what is left out, of each frame. `told` false ends the work. */
  async findTracks(
    settings: FindSettings,
    range: { first: number; last: number },
    channel: Reading['channel'],
    mattes: readonly { invert: boolean }[],
    page: {
      frame(frame: number): Promise<Seen>;
      matte(frame: number, index: number): Promise<Seen>;
      told(p: FindProgress): Promise<boolean>;
    },
  ): Promise<FoundTrack[] | null> {
    // The next frame, either way, is made while one is looked at.
    const ahead = new Map<number, Promise<Seen>>();
    let before = range.first;
    const want = (f: number): Promise<Seen> => {
      const asked = ahead.get(f) ?? page.frame(f);
      ahead.set(f, asked);
      asked.catch(() => ahead.delete(f));
      return asked;
    };
    const pictures: Pictures = {
      async frame(f) {
        const asked = want(f);
        const next = f < before ? f - 1 : f + 1;
        before = f;
        if (next >= range.first && next <= range.last) void want(next);
        const { pixels, region, format } = await asked;
        ahead.delete(f);
        return grayFrame(pixels, region, format, channel);
      },
    };
    if (mattes.length)
      pictures.matte = async (f): Promise<Gray> => {
        const all = await Promise.all(mattes.map((_, i) => page.matte(f, i)));
        const [first, ...others] = all.map(({ pixels, region, format }, i) => {
          const gray = grayFrame(pixels, region, format, 'alpha').read(0, 0, format.width, format.height);
          if (mattes[i]!.invert) for (let k = 0; k < gray.data.length; k++) gray.data[k] = 1 - gray.data[k]!;
          return gray;
        });
        for (const o of others) for (let k = 0; k < first!.data.length; k++) first!.data[k] = Math.max(first!.data[k]!, o.data[k] ?? 0);
        return first!;
      };
    const work = findTracks(await workerKernels(), range, settings, pictures);
    for (;;) {
      const { done, value } = await work.next();
      if (done) return value;
      if (!(await page.told(value))) return null;
    }
  },

  /** The camera of some tracks; `told` false ends the work. */
  async solveCamera(input: SolveInput, told: (stage: SolveStage) => Promise<boolean>): Promise<Assessed | null> {
    const work = solveCamera(input);
    for (;;) {
      const { done, value } = work.next();
      if (done) return value;
      if (!(await told(value))) return null;
    }
  },

  /** A shape with keys found in the picture between its own; `readings` are those that carry it. `told` false ends the work. */
  async snap(
    readings: readonly TrackReading[],
    shape: Shape,
    page: { frame(frame: number): Promise<Seen>; told(frame: number): Promise<boolean> },
  ) {
    return snapBetween(
      { readings: [...readings] },
      shape,
      async (f) => {
        const { pixels, region, format } = await page.frame(f);
        return lookOf(pixels, region, format);
      },
      (f) => page.told(f),
    );
  },

  /** The grain of some frames, of all of each or of a box of them in full-size pixels. */
  grain(frames: readonly Seen[], box: readonly [number, number, number, number] | null): ChannelGrain[] {
    return measureGrain(frames.map((f) => looksAt(f, box)));
  },

  /** What the match meter reads of an element on a frame. */
  async meterElement(element: Seen, frame: number): Promise<Figures> {
    return figuresOf(await workerKernels(), lookAtElement(element), `the element on frame ${frame}`);
  },

  /** What it reads of the plate around one. */
  async meterPlate(element: Seen, plate: Seen, around: Around, frame: number): Promise<Figures> {
    return figuresOf(await workerKernels(), lookAround(element, plate, around), `the plate on frame ${frame}`);
  },

  /** The light that takes a patch to the plate around it: `wide` is the patch over its ring too, `inside` over its place alone, premultiplied. */
  light(plate: Seen, wide: Seen, inside: Seen, lift: boolean): LightFit {
    const [to, from, own] = [plate, wide, inside].map((s) => planesOf(s.pixels)) as [SeenPlanes, SeenPlanes, SeenPlanes];
    return lightOfRing(to, from, own, lift);
  },

  /** The chart on a frame of a lens reading. */
  chart(seen: Seen, frame: number, reading: Pick<LensReading, 'settings' | 'channel' | 'frames'>): ChartFrame {
    return measureChart(
      wholeOf(seen, reading.channel),
      frame,
      reading.settings,
      reading.frames.find((f) => f.frame === frame),
    );
  },

  /** A place put by hand, on the crossing near it. */
  crossing(seen: Seen, channel: Reading['channel'], chart: ChartFrame, x: number, y: number): readonly [number, number] {
    return snapCrossing(wholeOf(seen, channel), chart, x, y);
  },

  /** The edge under a line that was drawn along something straight. */
  straight(seen: Seen, channel: Reading['channel'], line: StraightLine): StraightLine {
    return measureLine(wholeOf(seen, channel), line);
  },

  /** The lens of charts or lines. */
  solveLens(reading: Pick<LensReading, 'frames' | 'lines' | 'settings'>, format: { width: number; height: number }): SolvedReading {
    return solveReading(reading, format);
  },

  /** The camera that a render was made with, of its passes on a frame, and some of what it saw. */
  sceneView(
    passes: SurfacePasses,
    planes: Readonly<Record<string, Float32Array>>,
    region: Rect,
    format: Format,
    p: SurfaceParams,
    withCloud: boolean,
  ): SceneView & { cloud: Cloud | null } {
    const surface = readSurface(passes, planes, region, format, p, (n) => new Float32Array(n));
    return { camera: surface.camera, placed: surface.placed, cloud: withCloud ? cloudOf(surface, planes, width(region)) : null };
  },

  /** Some of the places that a picture shows. */
  cloud(
    planes: Readonly<Record<string, Float32Array>>,
    region: Rect,
    info: PictureInfo,
    view: View | null,
    across: number,
    most: number,
  ): Cloud | null {
    return pictureCloud({ info, tile: { region, planes: planes as Record<string, Plane> } }, view, across, most);
  },

  /** A camera with what stands around it, as a file for other programs. */
  async writeScene(scene: CameraScene, ending: 'glb' | 'usda'): Promise<Uint8Array> {
    if (ending === 'glb') return (await import('@/core/space/exchange/gltf')).writeGlb(scene);
    return new TextEncoder().encode((await import('@/core/space/exchange/usda')).writeUsda(scene));
  },

  /** An ST map of a lens, 32-bit OpenEXR. */
  async stMap(lens: Lens, direction: 'straighten' | 'bend'): Promise<Uint8Array> {
    const kernels = await workerKernels();
    const format = { ...lens.format, pixelAspect: 1 };
    const job = lensJob(lens, format, direction);
    const planes = stMapOf(kernels, job, format, true);
    try {
      const settings = { ...DEFAULT_OUTPUT, container: 'exr', bits: 32, alpha: true } as const;
      return await encodeMedia({ region: job.bounds, planes }, job.format, settings, kernels);
    } finally {
      Object.values(planes).forEach((p) => kernels.give(p));
    }
  },

  /** What speaks against following a place of a frame. */
  async judge(
    { pixels, region, format }: Seen,
    channel: Reading['channel'],
    at: readonly [number, number],
    settings: PointSettings,
  ): Promise<PlaceDoubt> {
    return judgePlace(await workerKernels(), grayFrame(pixels, region, format, channel), at[0], at[1], settings);
  },

  /** The best details in a box, each with its reason. */
  suggest({ pixels, region, format }: Seen, channel: Reading['channel'], box: readonly [number, number, number, number]): Suggestion[] {
    const whole = calmed(grayFrame(pixels, region, format, channel).read(0, 0, format.width, format.height));
    const [x0, y0, x1, y1] = box;
    const found = goodFeatures(whole, () => true, 8, 14, rect(x0, y0, x1, y1));
    const best = found[0]?.strength ?? 1;
    return found.map((f) => {
      const share = f.strength / best;
      return {
        ...f,
        why:
          share > 0.6
            ? 'a corner with strong contrast both ways'
            : share > 0.25
              ? 'a corner with fair contrast'
              : 'weak: may slip in noise',
      };
    });
  },
};

export type ReadingWorker = typeof api;
serve(api);
