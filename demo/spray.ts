import type { Kernels } from '@/kernels';
import { writeExr } from '@/core/formats';
import { hash } from './noise';

/** Spray that a wave throws over the quay's edge: drops as soft discs on black, with where they go. */
const DROPS = 420;
const [W, H] = [960, 540];
/** Pixels a frame and frame that drops fall faster by. */
const GRAVITY = 1.1;
const FRAMES = 24;

interface Drop {
  x: number;
  y: number;
  vx: number;
  vy: number;
  radius: number;
  light: number;
}

/** Drops that fly at a frame. Each starts again and again, elsewhere. */
function dropsAt(frame: number): Drop[] {
  return Array.from({ length: DROPS }, (_, i): Drop | null => {
    const life = 16 + Math.floor(14 * hash(i, 1, 811));
    const age = (frame + Math.floor(life * hash(i, 2, 811)) + FRAMES) % life;
    const turn = Math.floor((frame + Math.floor(life * hash(i, 2, 811)) + FRAMES) / life);
    const r = (k: number): number => hash(i + 977 * turn, k, 812);
    const vx = 2 + 9 * r(3);
    const vy = -(9 + 9 * r(4));
    const x = 60 + 330 * r(5) + vx * age;
    const y = 560 + vy * age + 0.5 * GRAVITY * age * age;
    if (y > H + 10 || x > W + 10) return null;
    return { x, y, vx, vy: vy + GRAVITY * age, radius: 0.8 + 3.2 * r(6) ** 3, light: 0.12 + 0.3 * r(7) };
  }).filter((d) => d !== null);
}

/** R, G, B, A premultiplied and motion in pixels a frame, of the whole frame. */
export function renderSpray(frame: number): Record<string, Float32Array> {
  const plane = (): Float32Array => new Float32Array(W * H);
  const planes = { R: plane(), G: plane(), B: plane(), A: plane(), 'motion.X': plane(), 'motion.Y': plane() };
  for (const d of dropsAt(frame)) {
    const reach = d.radius + 1.5;
    for (let y = Math.max(0, Math.floor(d.y - reach)); y <= Math.min(H - 1, d.y + reach); y++) {
      for (let x = Math.max(0, Math.floor(d.x - reach)); x <= Math.min(W - 1, d.x + reach); x++) {
        const far = Math.hypot(x + 0.5 - d.x, y + 0.5 - d.y);
        const cover = 0.7 * Math.min(1, Math.max(0, d.radius + 0.5 - far));
        if (cover <= 0) continue;
        const i = y * W + x;
        // A bright side towards the lamps.
        const shine = d.light * (0.6 + 0.8 * Math.max(0, (d.y - y) / (reach + 1)));
        planes.R[i] = planes.R[i]! * (1 - cover) + cover * shine;
        planes.G[i] = planes.G[i]! * (1 - cover) + cover * shine * 0.94;
        planes.B[i] = planes.B[i]! * (1 - cover) + cover * shine * 0.9;
        planes.A[i] = planes.A[i]! * (1 - cover) + cover;
        planes['motion.X'][i] = d.vx;
        planes['motion.Y'][i] = d.vy;
      }
    }
  }
  return planes;
}

export function sprayFile(frame: number, kernels: Kernels): Uint8Array {
  const channels = Object.entries(renderSpray(frame)).map(([name, values]) => ({
    name,
    type: 'half' as const,
    plane: kernels.copy(values),
  }));
  const format = { width: W, height: H, pixelAspect: 1 };
  const attributes = { comments: 'Saltgate Light, SG030 spray', owner: 'the demo generator', capDate: '2026:11:23 12:00:00' };
  const bytes = writeExr({ format, bounds: { x0: 0, y0: 0, x1: W, y1: H }, channels, compression: 'ZIP', attributes }, kernels);
  channels.forEach((c) => kernels.give(c.plane));
  return bytes;
}
