import { SRGB } from '@/core/colour';
import type { Rendered } from '@/engine';

/** A small picture for a list, drawn on a 2D canvas: over mid grey, as sRGB. */
export function drawSmall(canvas: HTMLCanvasElement, rendered: Rendered, matte = false): void {
  const w = rendered.region.x1 - rendered.region.x0;
  const h = rendered.region.y1 - rendered.region.y0;
  const ratio = canvas.height / canvas.width;
  const context = canvas.getContext('2d');
  if (!context) return;
  const image = context.createImageData(canvas.width, canvas.height);
  const fit = Math.min(canvas.width / w, canvas.height / h);
  const [dx, dy] = [(canvas.width - w * fit) / 2, (canvas.height - w * fit * Math.min(ratio, h / w)) / 2];
  // What lies outside 0..255 is cut by the image's own array.
  const encode = (v: number): number => 255 * SRGB.encode(v);
  for (let y = 0; y < canvas.height; y++) {
    for (let x = 0; x < canvas.width; x++) {
      const sx = Math.floor((x + 0.5 - dx) / fit);
      const sy = Math.floor((y + 0.5 - Math.max(0, dy)) / fit);
      const o = 4 * (y * canvas.width + x);
      image.data[o + 3] = 255;
      if (sx < 0 || sy < 0 || sx >= w || sy >= h) continue;
      const i = 4 * (sy * w + sx);
      const a = Math.min(1, Math.max(0, rendered.pixels[i + 3]!));
      for (let c = 0; c < 3; c++) image.data[o + c] = matte ? 255 * a : encode(rendered.pixels[i + c]! + (1 - a) * 0.05);
    }
  }
  context.putImageData(image, 0, 0);
}
