import * as yup from 'yup';
import { isNumbers, listOf } from '../params/list-of';

/** What a stroke does. `tint` lays colour on and keeps lightness; `erase` takes back to the picture as it came in. */
export const BRUSHES = ['paint', 'tint', 'clone', 'heal', 'reveal', 'erase', 'smear', 'blur', 'sharpen', 'dodge', 'burn'] as const;
export type Brush = (typeof BRUSHES)[number];

/** Brushes that copy from somewhere. */
export const copies = (tool: Brush): boolean => tool === 'clone' || tool === 'heal' || tool === 'reveal';

/** One line of the brush. Lengths are in full-size pixels; it is there on the frames from `first` to `last`. */
export interface Stroke {
  tool: Brush;
  first: number;
  last: number;
  /** Diameter, px. */
  size: number;
  /** Share of the radius, from the middle, in which it is full: 0..1. */
  hardness: number;
  /** Coverage where it is full: 0..1. A stroke does not add to itself, strokes add to each other. */
  flow: number;
  /** Scene-linear. */
  colour: readonly number[];
  /** x, y after each other; on the reference frame of what it follows. */
  points: readonly number[];
  /** Of a pen: how hard it was pressed at each point, 0..1; its size goes with it. */
  pressure?: readonly number[];
  off?: boolean;
  name?: string;
  /** Ids of readings that carry it: a point, two points, four points or a plane. */
  follows?: readonly string[];
  /** Of one that copies: from how far beside, px; from which frame, if not its own; from the other picture. */
  shift?: readonly number[];
  from?: number;
  other?: boolean;
  /** Of dodge and burn stops, of blur and sharpen px. */
  amount?: number;
}

const share = () => yup.number().strict().required().min(0).max(1);
const whole = () => yup.number().strict().integer();
const item = yup
  .object({
    tool: yup.string().oneOf(BRUSHES).required(),
    first: whole().required(),
    last: whole().required(),
    size: yup.number().strict().required().moreThan(0).max(10_000),
    hardness: share(),
    flow: share(),
    colour: yup
      .mixed(isNumbers)
      .required()
      .test('rgb', 'three numbers', (v) => v.length === 3),
    points: yup
      .mixed(isNumbers)
      .required()
      .test('pairs', 'two numbers a point', (v) => v.length >= 2 && v.length % 2 === 0),
    pressure: yup.mixed(isNumbers).optional(),
    off: yup.boolean().strict().optional(),
    name: yup.string().strict().max(200).optional(),
    follows: yup.array(yup.string().strict().required()).max(4).optional(),
    shift: yup
      .mixed(isNumbers)
      .optional()
      .test('pair', 'two numbers', (v) => v === undefined || v.length === 2),
    from: whole().optional(),
    other: yup.boolean().strict().optional(),
    amount: yup.number().strict().min(0).max(1000).optional(),
  })
  .required()
  .test(
    'pressure',
    'as many pressures as points',
    ({ pressure, points }) => pressure === undefined || pressure.length * 2 === points.length,
  );

const inShare = (v: unknown): boolean => typeof v === 'number' && v >= 0 && v <= 1;
const OPTIONAL = ['pressure', 'name', 'follows', 'from', 'other', 'off'] as const;

/** A stroke as a hand makes it, right in all its parts; whatever has more is looked at by the schema. */
function isPlain(s: Stroke): boolean {
  return (
    BRUSHES.includes(s.tool) &&
    Number.isInteger(s.first) &&
    Number.isInteger(s.last) &&
    s.size > 0 &&
    s.size <= 10_000 &&
    inShare(s.hardness) &&
    inShare(s.flow) &&
    isNumbers(s.colour) &&
    s.colour.length === 3 &&
    isNumbers(s.points) &&
    s.points.length >= 2 &&
    s.points.length % 2 === 0 &&
    (s.shift === undefined || (isNumbers(s.shift) && s.shift.length === 2)) &&
    (s.amount === undefined || (typeof s.amount === 'number' && s.amount >= 0 && s.amount <= 1000)) &&
    OPTIONAL.every((k) => s[k] === undefined)
  );
}

/** The strokes of a parameter. Throws ShotError where it has none. */
export const strokesOf = listOf<Stroke>(item, 'its brush strokes are damaged; remove them and brush again', isPlain);

const byFrame = new WeakMap<object, Map<number, readonly Stroke[]>>();

/** Those strokes that are there on a frame, so that others do not make the frame another. Throws ShotError. */
export function strokesAt(value: unknown, frame: number): readonly Stroke[] {
  // Looked through once a list: it is asked for at every plan, and on a worker nothing of it is frozen.
  let known = byFrame.get(value as object);
  if (!known) byFrame.set(strokesOf(value), (known = new Map()));
  let own = known.get(frame);
  if (!own) known.set(frame, (own = (value as readonly Stroke[]).filter((s) => !s.off && s.first <= frame && frame <= s.last)));
  return own;
}

/** Of a line's points those that are needed to keep it within `tolerance` px (Douglas and Peucker 1973), by their places. */
export function neededPoints(points: readonly number[], tolerance: number): number[] {
  const n = points.length / 2;
  const keep = new Uint8Array(n);
  keep[0] = keep[n - 1] = 1;
  const spans: [number, number][] = [[0, n - 1]];
  while (spans.length) {
    const [a, b] = spans.pop()!;
    let far = tolerance * tolerance;
    let at = -1;
    for (let i = a + 1; i < b; i++) {
      const d = squaredDistance(points[2 * i]!, points[2 * i + 1]!, points[2 * a]!, points[2 * a + 1]!, points[2 * b]!, points[2 * b + 1]!);
      if (d > far) [far, at] = [d, i];
    }
    if (at < 0) continue;
    keep[at] = 1;
    spans.push([a, at], [at, b]);
  }
  return Array.from({ length: n }, (_, i) => i).filter((i) => keep[i]);
}

/** Of a point to a segment. */
export function squaredDistance(x: number, y: number, x0: number, y0: number, x1: number, y1: number): number {
  const [dx, dy] = [x1 - x0, y1 - y0];
  const length = dx * dx + dy * dy;
  const t = length > 0 ? Math.min(1, Math.max(0, ((x - x0) * dx + (y - y0) * dy) / length)) : 0;
  const [u, v] = [x - x0 - t * dx, y - y0 - t * dy];
  return u * u + v * v;
}
