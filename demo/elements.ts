import { renderHarbour } from './harbour';
import { fractal, hash, valueNoise } from './noise';

/** Elements filmed on black, half the film's size: fog, embers and smoke; dirt of a lens; a piece of the quay for the night harbour. */
export const ELEMENT_FRAMES = { first: 1, last: 16 };
export const EMBER_FRAMES = { first: 1, last: 24 };
export const [EW, EH] = [480, 270] as const;

type Grey = (x: number, y: number) => number;
const paint = (at: Grey): Float32Array =>
  Float32Array.from({ length: EW * EH }, (_, i) => Math.max(0, at((i % EW) + 0.5, Math.floor(i / EW) + 0.5)));

/** A bank of fog that drifts: thick below, torn above. One value a pixel, of light. */
export function renderFog(frame: number): Float32Array {
  const t = frame / 24;
  return paint((x, y) => {
    const u = x / 150 + 0.35 * t;
    const lift = 0.25 * (valueNoise(u * 0.7, t * 0.4, 501) - 0.5);
    const body = 1 / (1 + Math.exp(-((y / EH - 0.52 + lift) * 9)));
    const torn = fractal(u + 0.12 * Math.sin(y / 30), y / 70 - 0.15 * t, 502);
    return 0.42 * body * Math.max(0, 1.6 * torn - 0.32);
  });
}

/** Smoke that rises from a place below the frame, wider and thinner on its way. */
export function renderSmoke(frame: number): Float32Array {
  const t = frame / 24;
  return paint((x, y) => {
    const up = (EH - y) / EH;
    const sway = 26 * (valueNoise(3 + up * 2.2 - 1.1 * t, t * 0.5, 511) - 0.5) * up;
    const wide = 16 + 70 * up ** 1.2;
    const column = Math.exp(-(((x - EW / 2 - 40 * up - sway) / wide) ** 2));
    const curls = fractal(x / (34 + 40 * up), y / 46 + 2.6 * t, 512);
    return 0.55 * column * Math.max(0, 1.9 * curls - 0.5) * (1 - 0.75 * up) * Math.min(1, 12 * (1.02 - up));
  });
}

const EMBERS = 70;

/** Embers that fly up and burn out: R, G, B of light, with a trail as long as the shutter was open. */
export function renderEmbers(frame: number): Float32Array {
  const out = new Float32Array(3 * EW * EH);
  for (let i = 0; i < EMBERS; i++) {
    const life = 18 + Math.floor(20 * hash(i, 1, 521));
    const start = Math.floor(life * hash(i, 2, 521));
    const age = (frame + start) % life;
    const turn = Math.floor((frame + start) / life);
    const r = (k: number): number => hash(i + 811 * turn, k, 522);
    const at = (a: number): [number, number] => [
      60 + 360 * r(3) + (r(4) - 0.3) * 2.4 * a + 9 * Math.sin(a * (0.14 + 0.2 * r(5)) + 6 * r(6)),
      EH + 6 - (2.6 + 5 * r(7)) * a + 0.02 * a * a,
    ];
    const heat = (1 - age / life) ** 1.5 * (0.6 + 0.4 * Math.sin(age * (1 + r(8))));
    for (let s = 0; s < 6; s++) {
      const [cx, cy] = at(age + (s - 2.5) / 12);
      const radius = 0.7 + 1.3 * r(9) ** 3;
      for (let y = Math.max(0, Math.floor(cy - radius - 1)); y < Math.min(EH, cy + radius + 1); y++) {
        for (let x = Math.max(0, Math.floor(cx - radius - 1)); x < Math.min(EW, cx + radius + 1); x++) {
          const cover = Math.max(0, Math.min(1, radius + 0.5 - Math.hypot(x + 0.5 - cx, y + 0.5 - cy))) / 6;
          [1, 0.36 * heat + 0.06, 0.05 * heat].forEach((k, c) => (out[3 * (y * EW + x) + c]! += 1.6 * k * heat * cover));
        }
      }
    }
  }
  return out;
}

/** Dust, smears and dried drops on the front of a lens, far out of focus. */
export function renderDirt(): Float32Array {
  const out = paint((x, y) => 0.05 * fractal(x / 90, y / 24, 531) + 0.1 * Math.max(0, valueNoise(x / 60 + y / 200, y / 11, 532) - 0.72));
  for (let i = 0; i < 130; i++) {
    const [cx, cy] = [EW * hash(i, 1, 533), EH * hash(i, 2, 533)];
    const radius = 1.5 + 15 * hash(i, 3, 533) ** 4;
    const light = 0.12 + 0.5 * hash(i, 4, 533) ** 2;
    const soft = 1 + 0.16 * radius;
    for (let y = Math.max(0, Math.floor(cy - radius - 4)); y < Math.min(EH, cy + radius + 4); y++) {
      for (let x = Math.max(0, Math.floor(cx - radius - 4)); x < Math.min(EW, cx + radius + 4); x++) {
        const d = Math.hypot(x + 0.5 - cx, y + 0.5 - cy);
        const disc = 1 / (1 + Math.exp((d - radius) / (0.35 * soft)));
        // A dried drop is brighter at its rim.
        const rim = radius > 6 ? 0.55 + 0.45 * Math.exp(-(((d - radius + 1.2) / 1.4) ** 2)) : 1;
        out[y * EW + x]! += light * disc * rim * (0.75 + 0.5 * fractal(x / 7, y / 7, 534 + i));
      }
    }
  }
  return out;
}

/** What is other on the piece of quay than in the harbour that it is cut from: light times this, plus that, and so much softer. */
export const QUAY_PIECE = { x0: 664, y0: 236, gain: [1.5, 1.15, 0.85], lift: [0.004, 0.006, 0.012], sigma: 1.3 } as const;

/** How much of a place the piece covers. */
const pieceAt = (x: number, y: number): number =>
  Math.max(0, Math.min(1, Math.min(x - QUAY_PIECE.x0, 953 - x) / 3)) * Math.max(0, Math.min(1, Math.min(y - QUAY_PIECE.y0, 404 - y) / 3));

/**
 * Roofs, lamps and their reflection, cut from the night harbour as if another camera had filmed them on black: R, G, B premultiplied and A, of the whole frame. Put back
 * where it is from and matched, it is not to be seen.
 */
export function renderQuayPiece(): Record<'R' | 'G' | 'B' | 'A', Float32Array> {
  const [w, h] = [960, 540];
  const light = renderHarbour(w, h);
  const reach = 4;
  const taps = Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-((i - reach) ** 2) / (2 * QUAY_PIECE.sigma ** 2)));
  const sum = taps.reduce((a, b) => a + b, 0);
  const planes = { R: new Float32Array(w * h), G: new Float32Array(w * h), B: new Float32Array(w * h), A: new Float32Array(w * h) };
  for (let y = 220; y < 410; y++) {
    for (let x = 650; x < w; x++) {
      const a = pieceAt(x + 0.5, y + 0.5);
      if (a === 0) continue;
      planes.A[y * w + x] = a;
      (['R', 'G', 'B'] as const).forEach((name, c) => {
        let v = 0;
        for (let dy = -reach; dy <= reach; dy++) {
          for (let dx = -reach; dx <= reach; dx++) {
            v += taps[dx + reach]! * taps[dy + reach]! * light[3 * ((y + dy) * w + Math.min(w - 1, x + dx)) + c]!;
          }
        }
        planes[name][y * w + x] = a * ((v / (sum * sum)) * QUAY_PIECE.gain[c]! + QUAY_PIECE.lift[c]!);
      });
    }
  }
  return planes;
}
