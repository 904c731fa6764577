import type { Homography } from '@/core/geometry';
import { applyHomography, multiply } from '@/core/geometry';
import { hash, normal } from './noise';

export type Rgb = [number, number, number];

/** A flat scene painted once, finely, so that many views of it can be taken. Scene-linear, three floats a texel. */
export interface Painted {
  width: number;
  height: number;
  /** Scene position of its corner, and texels a scene pixel. */
  x0: number;
  y0: number;
  scale: number;
  data: Float32Array;
}

/** Paints a scene over x0..x1, y0..y1 of its own pixels. */
export function paintScene(x0: number, y0: number, x1: number, y1: number, scale: number, at: (x: number, y: number) => Rgb): Painted {
  const [width, height] = [Math.round((x1 - x0) * scale), Math.round((y1 - y0) * scale)];
  const data = new Float32Array(3 * width * height);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 3) data.set(at(x0 + (x + 0.5) / scale, y0 + (y + 0.5) / scale), i);
  }
  return { width, height, x0, y0, scale, data };
}

/** The painted value at a scene position, bilinear, edges repeated; added to `to` with a weight. */
export function addPainted(p: Painted, x: number, y: number, weight: number, to: Rgb): void {
  const u = Math.min(p.width - 1.001, Math.max(0, (x - p.x0) * p.scale - 0.5));
  const v = Math.min(p.height - 1.001, Math.max(0, (y - p.y0) * p.scale - 0.5));
  const [i, j] = [u | 0, v | 0];
  const [s, t] = [u - i, v - j];
  const at = 3 * (j * p.width + i);
  const row = 3 * p.width;
  for (let c = 0; c < 3; c++) {
    const top = p.data[at + c]! * (1 - s) + p.data[at + 3 + c]! * s;
    const bottom = p.data[at + row + c]! * (1 - s) + p.data[at + row + 3 + c]! * s;
    to[c]! += weight * (top * (1 - t) + bottom * t);
  }
}

/** Something in front: its colour and coverage at a scene-independent position of the frame; coverage 0 is nothing. */
export type InFront = (x: number, y: number, time: number) => readonly [number, number, number, number];

export interface View {
  width: number;
  height: number;
  /** From positions of the frame at 960×540 to scene positions, at a time in frames. */
  toScene(time: number): Homography;
  /** What the painted light is multiplied by, and what stands in front. */
  inFront?: InFront;
  light?(x: number, y: number, time: number): number;
  /** Further light at a scene position and time, water for instance. */
  glint?(x: number, y: number, time: number): number;
  noise: number;
  seed: number;
  /** How long the shutter is open, in frames, and samples of it. */
  shutter: number;
  samples: number;
}

/** A frame as a camera sees it: shutter, vignette and noise. Scene-linear, three floats a pixel; and the coverage of what is in front. */
export function filmed(scene: Painted, view: View, frame: number): { plate: Float32Array; front: Float32Array } {
  const { width, height, samples } = view;
  const k = 960 / width;
  const maps = Array.from({ length: samples }, (_, s) => {
    const time = frame + view.shutter * ((s + 0.5) / samples - 0.5);
    return { time, map: view.toScene(time) };
  });
  // Each sample of the shutter looks at another place in the pixel.
  const spots = [
    [0.25, 0.3],
    [0.75, 0.7],
    [0.3, 0.75],
    [0.7, 0.25],
  ] as const;
  const plate = new Float32Array(3 * width * height);
  const front = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const sum: Rgb = [0, 0, 0];
      for (let s = 0; s < samples; s++) {
        const [px, py] = [(x + spots[s % 4]![0]) * k, (y + spots[s % 4]![1]) * k];
        const { time, map } = maps[s]!;
        const before = view.inFront?.(px, py, time) ?? [0, 0, 0, 0];
        const through = (1 - before[3]) / samples;
        front[i]! += before[3] / samples;
        for (let c = 0; c < 3; c++) sum[c]! += (before[c]! * before[3]) / samples;
        if (through === 0) continue;
        const [u, v] = applyHomography(map, px, py);
        const light = (view.light?.(u, v, time) ?? 1) * through;
        addPainted(scene, u, v, light, sum);
        const glint = view.glint?.(u, v, time) ?? 0;
        if (glint !== 0) for (let c = 0; c < 3; c++) sum[c]! += glint * through * [0.9, 1, 1.1][c]!;
      }
      const [dx, dy] = [(x + 0.5) / width - 0.5, (y + 0.5) / height - 0.5];
      const vignette = 1 - 0.35 * (dx * dx + dy * dy);
      for (let c = 0; c < 3; c++) {
        const light = sum[c]! * vignette;
        const grain = normal(hash(x + 977 * c, y, view.seed + frame), hash(x + 977 * c, y, view.seed + 30011 + frame));
        plate[3 * i + c] = Math.max(0, light + view.noise * grain * Math.sqrt(0.01 + Math.max(0, light)));
      }
    }
  }
  return { plate, front };
}

/** Turn, scale and shift around a middle, as a map from the scene to the frame. */
export function handheld(turn: number, scale: number, dx: number, dy: number, tilt: readonly [number, number] = [0, 0]): Homography {
  const [c, s] = [scale * Math.cos(turn), scale * Math.sin(turn)];
  const back: Homography = [1, 0, 480 + dx, 0, 1, 270 + dy, 0, 0, 1];
  const spin: Homography = [c, -s, 0, s, c, 0, tilt[0], tilt[1], 1];
  return multiply(back, multiply(spin, [1, 0, -480, 0, 1, -270, 0, 0, 1]));
}

/** 0 before a, 1 after b, eased between. */
export function ease(a: number, b: number, v: number): number {
  const t = Math.min(1, Math.max(0, (v - a) / (b - a)));
  return t * t * (3 - 2 * t);
}
