import { SRGB } from '@/core/colour';
import type { LayerKind } from '@/core/layers';
import type { Rendered } from '@/engine';

/** The least and the greatest of each channel where there is coverage: whole, since rims may hold what stands for nothing. */
function rangesOf({ pixels }: Rendered): [number, number][] {
  const within = (least: number): [number, number][] => {
    const ranges: [number, number][] = [0, 1, 2].map(() => [Infinity, -Infinity]);
    for (let i = 0; i < pixels.length; i += 4) {
      if (!(pixels[i + 3]! > least)) continue;
      ranges.forEach((r, c) => {
        const v = pixels[i + c]!;
        if (v < r[0]) r[0] = v;
        if (v > r[1]) r[1] = v;
      });
    }
    return ranges;
  };
  const whole = within(0.999);
  const ranges = whole[0]![0] <= whole[0]![1] ? whole : within(0);
  return ranges.map(([low, high]) => (low <= high ? [low, high] : [0, 1]));
}

const bits = new DataView(new ArrayBuffer(4));

/** A colour that stands for an id, the same wherever it occurs. */
function colourOfId(v: number): [number, number, number] {
  if (v === 0) return [0, 0, 0];
  bits.setFloat32(0, v);
  const h = Math.imul(bits.getUint32(0) ^ 0x9e3779b9, 2654435761) >>> 0;
  return [0.25 + 0.7 * ((h & 255) / 255), 0.25 + 0.7 * (((h >> 8) & 255) / 255), 0.25 + 0.7 * (((h >> 16) & 255) / 255)];
}

/** How values of a kind become display values of 0..1. */
function displayOf(kind: LayerKind, rendered: Rendered): (p: Float32Array, i: number) => [number, number, number] {
  const each =
    (f: (v: number, c: number) => number) =>
    (p: Float32Array, i: number): [number, number, number] => [f(p[i]!, 0), f(p[i + 1]!, 1), f(p[i + 2]!, 2)];
  switch (kind) {
    case 'colour':
    case 'light':
      return each(SRGB.encode);
    case 'normal':
      return each((v) => 0.5 + 0.5 * v);
    case 'depth':
    case 'position': {
      const ranges = rangesOf(rendered);
      const near = kind === 'depth';
      return each((v, c) => {
        const [low, high] = ranges[c]!;
        const t = (v - low) / Math.max(1e-9, high - low);
        // What is near is bright.
        return near ? 1 - t : t;
      });
    }
    case 'motion': {
      const most = Math.max(1e-6, ...rangesOf(rendered).flat().map(Math.abs));
      return each((v) => 0.5 + (0.5 * v) / most);
    }
    case 'id':
      return (p, i) => colourOfId(p[i]!);
    default:
      return each((v) => v);
  }
}

/** A pass as a small picture: light as light, data so that its shape is seen. Black where nothing is covered. */
export function drawPass(canvas: HTMLCanvasElement, rendered: Rendered, kind: LayerKind): void {
  const w = rendered.region.x1 - rendered.region.x0;
  const h = rendered.region.y1 - rendered.region.y0;
  canvas.width = w;
  canvas.height = h;
  const context = canvas.getContext('2d');
  if (!context) return;
  const image = context.createImageData(w, h);
  const display = displayOf(kind, rendered);
  const data = kind !== 'colour' && kind !== 'light' && kind !== 'matte';
  for (let i = 0; i < 4 * w * h; i += 4) {
    image.data[i + 3] = 255;
    if (data && !(rendered.pixels[i + 3]! > 0)) continue;
    const [r, g, b] = display(rendered.pixels, i);
    image.data[i] = 255 * r;
    image.data[i + 1] = 255 * g;
    image.data[i + 2] = 255 * b;
  }
  context.putImageData(image, 0, 0);
}
