import { spawnSync } from 'node:child_process';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import type { Homography } from '@/core/geometry/homography';
import { IDENTITY_H, multiply } from '@/core/geometry/fit';
import type { Gray } from '@/core/readings/gray';

/* eslint-disable @typescript-eslint/no-explicit-any -- its own types do not cover what is used of it here */
let cv: any;

/** OpenCV's build for npm, to compare with: nothing of it is in the application. */
export async function openCv(): Promise<void> {
  if (cv) return;
  const require = createRequire(join(process.env.OSTRACON_ROOT ?? process.cwd(), 'package.json'));
  const loaded = require('@techstark/opencv-js');
  cv = loaded instanceof Promise ? await loaded : loaded;
  if (!cv.Mat) await new Promise<void>((done) => (cv.onRuntimeInitialized = () => done()));
}

/** A frame as OpenCV wants it: 8 bits. */
export function matOf({ width, height, data }: Gray): any {
  const mat = new cv.Mat(height, width, cv.CV_8UC1);
  for (let i = 0; i < data.length; i++) mat.data[i] = Math.min(255, Math.max(0, Math.round(255 * data[i]!)));
  return mat;
}

/** Pyramidal Lucas–Kanade of some points from one frame to the next, with its usual settings and a window like ours. */
export function followAll(from: any, to: any, points: readonly number[], window: number): { points: number[]; found: boolean[] } {
  const before = cv.matFromArray(points.length / 2, 1, cv.CV_32FC2, points);
  const [after, status, error] = [new cv.Mat(), new cv.Mat(), new cv.Mat()];
  const criteria = new cv.TermCriteria(cv.TermCriteria_COUNT + cv.TermCriteria_EPS, 30, 0.01);
  cv.calcOpticalFlowPyrLK(from, to, before, after, status, error, new cv.Size(window, window), 3, criteria);
  const result = { points: [...(after.data32F as Float32Array)], found: [...(status.data as Uint8Array)].map(Boolean) };
  [before, after, status, error].forEach((m) => m.delete());
  return result;
}

/** Corners in a region of a frame, for a plane. */
export function corners(frame: any, mask: any, count: number): number[] {
  const found = new cv.Mat();
  cv.goodFeaturesToTrack(frame, found, count, 0.002, 9, mask, 7);
  const list = [...(found.data32F as Float32Array)];
  found.delete();
  return list;
}

export const maskOf = (width: number, height: number, inside: (x: number, y: number) => boolean): any => {
  const mat = new cv.Mat(height, width, cv.CV_8UC1);
  for (let i = 0; i < width * height; i++) mat.data[i] = inside((i % width) + 0.5, Math.floor(i / width) + 0.5) ? 255 : 0;
  return mat;
};

/** A homography between two lists of points by RANSAC; null where there is none. */
export function homographyOf(from: readonly number[], to: readonly number[]): Homography | null {
  if (from.length < 8) return null;
  const [a, b] = [from, to].map((l) => cv.matFromArray(l.length / 2, 1, cv.CV_32FC2, l));
  const found = cv.findHomography(a, b, cv.RANSAC, 1.5);
  const m = found.rows === 3 ? ([...(found.data64F as Float64Array)] as unknown as Homography) : null;
  [a, b, found].forEach((x) => x.delete());
  return m;
}

/** A plane followed frame to frame: features of the region, seeded anew on each frame, and the maps chained. */
export function followPlaneOnce(from: any, to: any, mask: any, so: Homography): Homography {
  const points = corners(from, mask, 160);
  if (points.length < 8) return so;
  const { points: next, found } = followAll(from, to, points, 15);
  const [a, b]: [number[], number[]] = [[], []];
  found.forEach((ok, i) => {
    if (!ok) return;
    a.push(points[2 * i]!, points[2 * i + 1]!);
    b.push(next[2 * i]!, next[2 * i + 1]!);
  });
  const step = homographyOf(a, b);
  return multiply(step ?? IDENTITY_H, so);
}

/**
 * Non-local means of three planes of code values, 5 px patches within 13 px as ours by default. The build for npm has none: it is Debian's
 * python3-opencv, where that is installed; null without.
 */
export function denoiseByOpenCv(planes: readonly Float32Array[], w: number, h: number, strength: number): Float32Array[] | null {
  const bytes = new Uint8Array(3 * w * h);
  for (let i = 0; i < w * h; i++) for (let c = 0; c < 3; c++) bytes[3 * i + c] = Math.round(255 * planes[c]![i]!);
  const code = `import sys,cv2,numpy as n
a=n.frombuffer(sys.stdin.buffer.read(),n.uint8).reshape(${h},${w},3)
sys.stdout.buffer.write(cv2.fastNlMeansDenoisingColored(a,None,${strength},${strength},5,13).tobytes())`;
  const { status, stdout } = spawnSync('/usr/bin/python3', ['-c', code], { input: bytes, maxBuffer: 2 ** 28 });
  if (status !== 0) return null;
  return planes.map((_, c) => Float32Array.from({ length: w * h }, (__, i) => stdout[3 * i + c]! / 255));
}

export const release = (m: any): void => m.delete();
