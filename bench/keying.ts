import { mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { produce } from 'immer';
import { deltaE2000, labOf } from '@/core/colour/delta-e';
import type { Lane, Shot, Step } from '@/core/document/types';
import { findScreen } from '@/core/keying/find-screen';
import { RGBA } from '@/core/picture';
import { writePlate } from '@/demo/plate-file';
import type { PlateFrame, PlateOptions } from '@/demo/sg010';
import { keeperParts, renderKeeper } from '@/demo/sg010';
import { keyScreen } from '@/core/assemblies/key-screen';
import type { MatteErrors } from './matting';
import { matteErrors, partialBand } from './matting';

/** Whatever renders: the command line's host. */
export interface Renderer {
  render(
    shot: Shot,
    request: { tap: { lane: string; after?: string }; frame: number; scale: number; channels: readonly string[] },
  ): Promise<{
    pixels: Float32Array;
    region: { x0: number; y0: number; x1: number; y1: number };
  }>;
}

export interface KeyFigures {
  whole: MatteErrors;
  band: MatteErrors;
  /** MSE where hair or the cape is what covers partly. */
  hair: number;
  cape: number;
  /** Shares of truly solid and truly empty pixels that are exactly 1 and 0: of all, and of those 3 px and more from the band. */
  solid: number;
  empty: number;
  solidAway: number;
  emptyAway: number;
  /** Mean ΔE2000 of the band laid over black and over white against the truth. */
  overBlack: number;
  overWhite: number;
}

const NAMES = ['hair', 'cape', 'solid', 'empty', 'solidAway', 'emptyAway', 'overBlack', 'overWhite'] as const;

/** What is true of a frame. */
export interface KeyTruth extends PlateFrame {
  frame: number;
  band: Uint8Array;
  cape: Float32Array;
  hair: Float32Array;
}

export function truthOf(frame: number, o: PlateOptions): KeyTruth {
  const made = renderKeeper(frame, o);
  return { ...made, ...keeperParts(frame, o), frame, band: partialBand(made.alpha, o.width, o.height, 3) };
}

/** Premultiplied RGBA against the truth. */
export function keyFigures(pixels: Float32Array, t: KeyTruth): KeyFigures {
  const { width, height, alpha, foreground, band } = t;
  const n = width * height;
  const a = Float32Array.from({ length: n }, (_, i) => pixels[4 * i + 3]!);
  const counts = { hair: [0, 0], cape: [0, 0], solid: [0, 0], empty: [0, 0], solidAway: [0, 0], emptyAway: [0, 0] };
  const add = (to: number[], value: number): void => {
    to[0]! += value;
    to[1]!++;
  };
  let [black, white, seen] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const truth = alpha[i]!;
    const square = (a[i]! - truth) ** 2;
    if (truth > 0.02 && truth < 0.98) {
      if (t.hair[i]! > 0.01) add(counts.hair, square);
      else if (t.cape[i]! > 0.1) add(counts.cape, square);
    }
    if (truth >= 0.998) {
      add(counts.solid, +(a[i] === 1));
      if (!band[i]) add(counts.solidAway, +(a[i] === 1));
    } else if (truth <= 0.002) {
      add(counts.empty, +(a[i] === 0));
      if (!band[i]) add(counts.emptyAway, +(a[i] === 0));
    }
    if (!band[i]) continue;
    seen++;
    const lab = (c: (k: number) => number, cover: number, back: number) =>
      labOf(c(0) + (1 - cover) * back, c(1) + (1 - cover) * back, c(2) + (1 - cover) * back);
    for (const back of [0, 1]) {
      const e = deltaE2000(
        lab((k) => pixels[4 * i + k]!, a[i]!, back),
        lab((k) => foreground[3 * i + k]!, truth, back),
      );
      if (back) white += e;
      else black += e;
    }
  }
  const share = ([sum, count]: number[]): number => sum! / Math.max(1, count!);
  return {
    whole: matteErrors(a, alpha, width, height),
    band: matteErrors(a, alpha, width, height, band),
    hair: share(counts.hair),
    cape: share(counts.cape),
    solid: share(counts.solid),
    empty: share(counts.empty),
    solidAway: share(counts.solidAway),
    emptyAway: share(counts.emptyAway),
    overBlack: black / Math.max(1, seen),
    overWhite: white / Math.max(1, seen),
  };
}

/** The mean of figures of several frames. */
export function meanFigures(list: readonly KeyFigures[]): KeyFigures {
  const mean = (of: (f: KeyFigures) => number): number => list.reduce((s, f) => s + of(f), 0) / list.length;
  const errors = (of: (f: KeyFigures) => MatteErrors): MatteErrors => ({
    sad: mean((f) => of(f).sad),
    mse: mean((f) => of(f).mse),
    gradient: mean((f) => of(f).gradient),
  });
  const rest = Object.fromEntries(NAMES.map((k) => [k, mean((f) => f[k])])) as Record<(typeof NAMES)[number], number>;
  return { whole: errors((f) => f.whole), band: errors((f) => f.band), ...rest };
}

/** The plate alone: one lane without steps. */
export function plateOnly(shot: Shot, laneId: string): Shot {
  const lane = shot.lanes.find((l) => l.id === laneId)!;
  return { ...shot, lanes: [{ ...lane, steps: [] }], result: laneId };
}

/** What the one command makes of a plate's lane, with the screen as it finds it. */
export async function oneCommand(plate: Shot, host: Renderer, frames: readonly number[]): Promise<Shot> {
  const lane = plate.result!;
  const samples = await Promise.all(
    frames.map(async (frame) => {
      const { pixels, region } = await host.render(plate, { tap: { lane }, frame, scale: 0.25, channels: RGBA });
      return { pixels, width: region.x1 - region.x0, height: region.y1 - region.y0 };
    }),
  );
  const found = findScreen(samples);
  if (!found) throw new Error('no screen was found');
  return produce(plate, (d) => keyScreen({ lane, screenColour: found.colour })(d));
}

/** The plate with one screen key that has this colour and constant thresholds, and nothing else. */
export function bareKey(plate: Shot, screenColour: readonly number[], low: number, high: number): Shot {
  const lane = plate.lanes[0]!;
  const key: Step = {
    id: 'bare',
    type: 'screenKey',
    name: 'bare',
    on: true,
    mix: 1,
    feeds: {},
    params: { screenColour: [...screenColour], low, high },
  };
  return { ...plate, lanes: [{ ...lane, steps: [key] } satisfies Lane] };
}

/** A plate of the generator that the application has never seen, as files in the temporary folder; what `openShotFile` takes. */
export async function writeUnseen(name: string, truths: readonly KeyTruth[]): Promise<string> {
  const folder = join(tmpdir(), 'saltgate-unseen', name);
  mkdirSync(folder, { recursive: true });
  for (const t of truths) await writePlate(t.plate, t.width, t.height, join(folder, `plate.${String(t.frame).padStart(4, '0')}.jpg`));
  return join(folder, 'plate.####.jpg');
}
