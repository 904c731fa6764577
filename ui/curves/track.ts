import type { Key, Step, Value } from '@/core/document';
import { isKeyed, paramsOf, partsOf } from '@/core/document';
import { ShotError } from '@/core/errors';
import type { Shape, ShapeKey } from '@/core/shape';
import { POINT_SIZE } from '@/core/shape';
import type { Change } from '@/core/commands';
import { changeSome, setKeys, shapesIn } from '@/core/commands';

/** Something of a step over time that is drawn as a curve: one number of a keyed parameter, or a shape as a whole. */
export interface Track {
  id: string;
  title: string;
  keys: readonly Key[];
  colour: string;
  /** Which number of a key is moved up and down; of a shape none is. */
  part: number | null;
  /** How far keys that can go without are off, in what is drawn. */
  tolerance: number;
  /** What is drawn of a value. */
  read(value: Value): number;
  write(keys: readonly Key[], frame: number): Change;
}

/** What is seen of the plane of frames and values. */
export interface Viewport {
  first: number;
  last: number;
  low: number;
  high: number;
}

const COLOURS = ['#ec8a72', '#8cc492', '#88a8e4', '#d8a848', '#79b0a8', '#c99ad8'];
/** Of a shape's points, px. */
const SHAPE_TOLERANCE = 0.5;

/** A shape's curve: how far its points have gone since its first key, px on average. */
function shapeTrack(step: string, shape: Shape, colour: string): Track {
  const first = shape.keys[0]!.value;
  return {
    id: `shape ${shape.id}`,
    title: shape.name,
    keys: shape.keys as readonly Key[],
    colour,
    part: null,
    tolerance: SHAPE_TOLERANCE,
    read: (value) => {
      const points = value as readonly number[];
      let sum = 0;
      for (let i = 0; i < first.length; i += POINT_SIZE) sum += Math.hypot(points[i]! - first[i]!, points[i + 1]! - first[i + 1]!);
      return (sum * POINT_SIZE) / first.length;
    },
    write: (keys) => (s) => {
      if (keys.length === 0) throw new ShotError('a shape keeps one key at least; delete the shape itself in Controls');
      const own = keys.map(({ frame, ease, value, ...more }): ShapeKey => {
        const { sure } = more as Partial<ShapeKey>;
        return { frame, ease, value: value as readonly number[], ...(sure !== undefined && { sure }) };
      });
      changeSome(step, [shape.id], (x) => ({ ...x, keys: own }))(s);
    },
  };
}

/** The curves of a step or zone: its keyed parameters number by number, then its shapes that have more keys than one. */
export function tracksOf(step: Step): Track[] {
  const schema = paramsOf(step);
  const keyed = [...Object.entries(step.params), ['mix', step.mix] as const].filter(([, p]) => isKeyed(p));
  let n = 0;
  const colour = (): string => COLOURS[n++ % COLOURS.length]!;
  const numbers = keyed.flatMap(([param, p]) => {
    const { keys } = p as { keys: Key[] };
    const parts = partsOf(keys[0]?.value ?? 0).length;
    const title = param === 'mix' ? 'Mix' : (schema[param]?.title ?? param);
    const suffix = parts === 3 ? [' red', ' green', ' blue'] : parts === 2 ? [' x', ' y'] : [''];
    return Array.from({ length: parts }, (_, part): Track => {
      const read = (v: Value): number => partsOf(v)[part] ?? 0;
      const values = keys.map((k) => read(k.value));
      return {
        ...{ id: `${param} ${part}`, title: title + (suffix[part] ?? ` ${part + 1}`), keys, colour: colour(), part, read },
        tolerance: 0.01 * (Math.max(...values) - Math.min(...values)),
        write: (next, frame) => setKeys(step.id, param, next, frame),
      };
    });
  });
  const moving = shapesIn(step).filter((s) => s.keys.length > 1);
  return [...numbers, ...moving.map((s) => shapeTrack(step.id, s, colour()))];
}
