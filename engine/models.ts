import type { Kernels } from '@/kernels';
import type { Model } from '@/core/render';
import { readObjModel } from '@/core/render';
import { decodeMedia } from './codecs';

/** Its reader is loaded when there is something to read. */
const gltf = () => import('@/core/render/gltf-model');

const GREY = { width: 1, height: 1, data: new Float32Array(4).fill(1) };

/** What a model's file holds, its textures left unread. Throws as `readModel` does. */
export const inspectModel = async (bytes: Uint8Array, file: string): Promise<Model> =>
  /\.obj$/i.test(file) ? readObjModel(bytes, file) : (await gltf()).readGltfModel(bytes, file, () => Promise.resolve(GREY));

/** Whether a file is a model, by its name. */
export const isModelFile = (file: string): boolean => /\.(glb|gltf|obj)$/i.test(file);

/** A model of a .glb, .gltf or .obj file. Throws MediaError, or ShotError where it is too large. */
export async function readModel(
  bytes: Uint8Array,
  file: string,
  kernels: Kernels,
  beside?: Readonly<Record<string, Uint8Array>>,
): Promise<Model> {
  if (/\.obj$/i.test(file)) return readObjModel(bytes, file);
  const { readGltfModel } = await gltf();
  return readGltfModel(
    bytes,
    file,
    async (image, name, colour) => {
      const as = { colourSpace: colour ? 'sRGB' : 'linear', alpha: 'premultiplied' } as const;
      const { planes, format } = await decodeMedia(image, name, as, kernels);
      const { width, height } = format;
      const data = new Float32Array(4 * width * height).fill(1);
      ['R', 'G', 'B', 'A'].forEach((c, k) => {
        const plane = planes[c];
        if (plane) for (let i = 0; i < plane.length; i++) data[4 * i + k] = plane[i]!;
      });
      Object.values(planes).forEach((p) => kernels.give(p));
      return { width, height, data };
    },
    beside,
  );
}
