import type { Rendered } from '@/engine';
import type { Drawing, Look } from './look';
import { SURROUND, displayCode } from './look';

type Context = OffscreenCanvasRenderingContext2D | CanvasRenderingContext2D;

/** Codes for light from 0 to 4, evenly in its square root, so that the dark end is fine enough. */
const STEPS = 4096;
const MOST = 4;

type Rgb = readonly [number, number, number];

/** Draws a float picture with a 2D canvas, where the browser has no WebGL2: the same look, by the processor. */
export class CanvasDrawing implements Drawing {
  private readonly context: Context;
  /** The shown picture's frame on the canvas: its left edge and width. */
  private frame = { left: 0, width: 1 };
  private codes = new Uint8ClampedArray(STEPS + 1);
  private codesOf = '';

  constructor(readonly canvas: OffscreenCanvas | HTMLCanvasElement) {
    const context = canvas.getContext('2d', { alpha: false }) as Context | null;
    if (!context) throw new Error('This browser offers neither WebGL2 nor a 2D canvas, which the stage draws with.');
    this.context = context;
  }

  draw(rendered: Rendered | null, scale: number, look: Look): void {
    const { context, canvas } = this;
    context.fillStyle = `rgb(${SURROUND[look.surround].map((c) => Math.round(255 * c)).join(' ')})`;
    context.fillRect(0, 0, canvas.width, canvas.height);
    if (!rendered) return;
    this.prepare(look);
    const { region, pixels } = rendered;
    const [w, h] = [region.x1 - region.x0, region.y1 - region.y0];
    const pixel = look.zoom / scale;
    this.frame = { left: look.x, width: rendered.format.width * pixel };
    const [left, top] = [look.x + region.x0 * pixel, look.y + region.y0 * pixel];
    const x0 = Math.max(0, Math.ceil(left - 0.5));
    const y0 = Math.max(0, Math.ceil(top - 0.5));
    const x1 = Math.min(canvas.width, Math.floor(left + w * pixel));
    const y1 = Math.min(canvas.height, Math.floor(top + h * pixel));
    if (x1 <= x0 || y1 <= y0) return;
    const image = context.createImageData(x1 - x0, y1 - y0);
    for (let y = y0; y < y1; y++) {
      const row = Math.min(h - 1, Math.floor((y + 0.5 - top) / pixel)) * w;
      for (let x = x0; x < x1; x++) {
        const at = 4 * (row + Math.min(w - 1, Math.floor((x + 0.5 - left) / pixel)));
        const to = 4 * ((y - y0) * (x1 - x0) + x - x0);
        this.pixel(pixels, at, x, y, look, image.data, to);
        image.data[to + 3] = 255;
      }
    }
    context.putImageData(image, x0, y0);
    context.strokeStyle = 'rgb(107 107 107)';
    context.strokeRect(look.x + 0.5, look.y + 0.5, rendered.format.width * pixel - 1, rendered.format.height * pixel - 1);
  }

  private prepare(look: Look): void {
    const wanted = `${look.transform} ${look.gamma}`;
    if (this.codesOf === wanted) return;
    this.codesOf = wanted;
    for (let i = 0; i <= STEPS; i++) this.codes[i] = 255 * displayCode(MOST * (i / STEPS) ** 2, look.transform, look.gamma);
  }

  private code(v: number): number {
    return this.codes[Math.min(STEPS, Math.sqrt(Math.max(0, v) / MOST) * STEPS + 0.5) | 0]!;
  }

  private pixel(p: Float32Array, at: number, x: number, y: number, look: Look, out: Uint8ClampedArray, to: number): void {
    const [r, g, b, a] = [p[at]!, p[at + 1]!, p[at + 2]!, p[at + 3]!];
    const gain = 2 ** look.exposure;
    const set = (c: Rgb): void => {
      out[to] = c[0];
      out[to + 1] = c[1];
      out[to + 2] = c[2];
    };
    const even = (v: number): void => set([v, v, v]);
    if (!Number.isFinite(r + g + b + a)) return set(Math.floor((x - y) / 3) % 2 ? [255, 0, 255] : [0, 0, 0]);
    const { channel } = look;
    if (channel === 'A') return even(255 * Math.min(1, Math.max(0, a * gain)));
    if (channel === 'luma') return even(this.code((0.2126 * r + 0.7152 * g + 0.0722 * b) * gain));
    if (channel === 'audit') return set(auditColour(a, x, y));
    if (channel !== 'colour' && channel !== 'overlay') return even(this.code({ R: r, G: g, B: b }[channel] * gain));
    if (channel === 'overlay') {
      const cover = 0.6 * (1 - Math.min(1, Math.max(0, a)));
      const tint = (v: number, to: number): number => this.code(v * gain) * (1 - cover) + to * cover;
      return set([tint(r, 207), tint(g, 105), tint(b, 59)]);
    }
    const through = 1 - Math.min(1, Math.max(0, a));
    const behind = through > 0 ? this.behind(x, y, look, gain) : NONE;
    set([this.code(r * gain + through * behind[0]), this.code(g * gain + through * behind[1]), this.code(b * gain + through * behind[2])]);
  }

  /** The light of the backing at a place of the canvas. */
  private behind(x: number, y: number, look: Look, gain: number): Rgb {
    const { backing, backingColour } = look;
    if (backing === 'thirds') return THIRDS[Math.min(2, Math.max(0, Math.floor(((x - this.frame.left) / this.frame.width) * 3)))]!;
    if (backing === 'colour') return [backingColour[0] * gain, backingColour[1] * gain, backingColour[2] * gain];
    if (look.behind) {
      const { rendered, scale } = look.behind;
      const { x0, y0, x1, y1 } = rendered.region;
      const u = Math.floor(((x + 0.5 - look.x) / look.zoom) * scale);
      const v = Math.floor(((y + 0.5 - look.y) / look.zoom) * scale);
      if (u < x0 || v < y0 || u >= x1 || v >= y1) return NONE;
      const at = 4 * ((v - y0) * (x1 - x0) + u - x0);
      return [rendered.pixels[at]! * gain, rendered.pixels[at + 1]! * gain, rendered.pixels[at + 2]! * gain];
    }
    const plain = PLAIN[backing] ?? checker(x, y);
    return [plain, plain, plain];
  }
}

const NONE: Rgb = [0, 0, 0];
const THIRDS: readonly Rgb[] = [NONE, [1, 1, 1], [0.18, 0.18, 0.18]];
const PLAIN: Partial<Record<Look['backing'], number>> = { white: 1, grey: 0.18, black: 0 };

const checker = (x: number, y: number): number => ((Math.floor(x / 12) + Math.floor(y / 12)) % 2 ? 0.13 : 0.075);

/** The colours of the matte audit in gl.ts. */
function auditColour(a: number, x: number, y: number): Rgb {
  const stripe = ((x + y) / 9) % 1 >= 0.5;
  if (a < 0) return stripe ? [77, 13, 13] : [237, 107, 94];
  if (a === 0) return [8, 8, 8];
  if (a > 1) return stripe ? [89, 56, 0] : [217, 168, 71];
  if (a === 1) return [232, 227, 217];
  return [31 + 109 * a, 61 + 138 * a, 59 + 130 * a];
}
