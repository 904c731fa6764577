import { ShotError } from '../../errors';
import { matrixOf } from '../pose';
import type { CameraParts } from '../camera-parts';
import { NEW_CAMERA } from '../camera-parts';
import { poseFrom } from './camera-scene';
import { readGltfCamera } from './gltf';
import { readUsdaCamera } from './usda';

/** A camera of a .glb, .gltf or .usda file, as a reading without tracks. Throws MediaError, or ShotError for a file of another kind. */
export async function readCameraFile(
  bytes: Uint8Array,
  file: string,
  { fps, start, format }: { fps: number; start: number; format: { readonly width: number; readonly height: number } },
): Promise<{ name: string; parts: CameraParts }> {
  const usd = /\.usd[acz]?$/i.test(file);
  if (!usd && !/\.gl(b|tf)$/i.test(file)) throw new ShotError(`${file} is none of .glb, .gltf and .usda: a camera is read from those`);
  const made = usd ? readUsdaCamera(bytes, file, start) : await readGltfCamera(bytes, file, fps, start);
  const focals = made.frames.map((f) => f.focal * format.height);
  const { width, height } = format;
  return {
    name: made.name,
    parts: {
      ...NEW_CAMERA,
      frames: made.frames.map((f, i) => ({
        frame: f.frame,
        matrix: matrixOf(poseFrom(f)),
        focal: focals[i]!,
        error: 0,
        count: 0,
        confidence: 1,
      })),
      solved: {
        kind: 'moving',
        zooms: focals.some((f) => Math.abs(f / focals[0]! - 1) > 1e-6),
        centre: [width / 2, height / 2],
        bend: [0, 0],
        rms: 0,
        points: [],
        depths: [1, 10, 100],
        format: { width, height },
      },
    },
  };
}
