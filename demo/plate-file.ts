import sharp from 'sharp';
import { REC709 } from '@/core/colour';

/** Writes a plate as a camera's recorder would: Rec.709 code values, JPEG 4:2:0. `light` is scene-linear, three floats a pixel. */
export async function writePlate(light: Float32Array, width: number, height: number, path: string): Promise<void> {
  const codes = Buffer.from(light.map((v) => Math.min(255, Math.max(0, Math.round(255 * REC709.encode(Math.max(0, v)))))));
  await sharp(codes, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 92, chromaSubsampling: '4:2:0' })
    .toFile(path);
}
