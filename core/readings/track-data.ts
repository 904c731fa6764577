import { IDENTITY_H, atScale, fitMap } from '../geometry/fit';
import type { Pair } from '../geometry/fit';
import type { Homography, Quad } from '../geometry/homography';
import { applyHomography, mapPoint } from '../geometry/homography';
import { hashText } from '../hash';
import type { Mapping } from '../geometry/mapping';
import type { Tap } from '../document/tap';
import type { TrackReading } from './types';

/** Two positions in a path, and how far from the first to the second a time lies; held beyond both ends. */
function between<T extends { frame: number }>(list: readonly T[], time: number): readonly [T, T, number] | null {
  if (list.length === 0) return null;
  let high = list.findIndex((f) => f.frame >= time);
  if (high < 0) high = list.length - 1;
  const b = list[high]!;
  const a = b.frame <= time || high === 0 ? b : list[high - 1]!;
  return [a, b, a === b ? 0 : (time - a.frame) / (b.frame - a.frame)];
}

/** What a step gets of a reading, at the scale it works at. Between frames it is interpolated, beyond its ends held. */
export class ReadingData {
  readonly kind: TrackReading['kind'];
  readonly reference: number;
  /** Frames from the first to the last that is measured. */
  readonly range: { first: number; last: number };
  /** Of a plane: its surface on the reference frame. */
  readonly surface: Quad | null;
  private readonly key: string;

  constructor(
    private readonly reading: TrackReading,
    private readonly scale: number,
    /** From positions of the picture that it was measured in to those of the one where it is used, where a lens lies between. */
    readonly across: Mapping | null = null,
  ) {
    this.kind = reading.kind;
    this.reference = reading.reference;
    const { frames } = reading;
    this.range = { first: frames[0]?.frame ?? reading.reference, last: frames[frames.length - 1]?.frame ?? reading.reference };
    this.surface = reading.kind === 'plane' ? (reading.surface.map(([x, y]) => [x * scale, y * scale]) as unknown as Quad) : null;
    const told =
      reading.kind === 'point'
        ? [reading.at, reading.frames.map((f) => [f.frame, f.x, f.y])]
        : [reading.surface, reading.frames.map((f) => [f.frame, f.homography])];
    this.key = hashText(JSON.stringify([reading.kind, reading.reference, told]));
  }

  /** Stands for its contents where it is part of a key. */
  toJSON(): string {
    return `${this.key} ${this.scale}${this.across ? JSON.stringify(this.across) : ''}`;
  }

  /** The same, used on another side of a lens. */
  seenThrough(across: Mapping): ReadingData {
    return new ReadingData(this.reading, this.scale, across);
  }

  get from(): Tap {
    return this.reading.from;
  }

  /** Of a point: where it is. */
  positionAt(time: number): readonly [number, number] {
    if (this.reading.kind !== 'point') return mapPoint(this.mapAt(time), ...this.middle);
    const found = between(this.reading.frames, time);
    const [x, y] = found ? mix([found[0].x, found[0].y], [found[1].x, found[1].y], found[2]) : this.reading.at;
    return [x! * this.scale, y! * this.scale];
  }

  /** From the reference frame to a time: of a point its shift, of a plane its map. */
  mapAt(time: number): Homography {
    if (this.reading.kind === 'point') {
      const [[x, y], [u, v]] = [this.positionAt(this.reference), this.positionAt(time)];
      return [1, 0, u - x, 0, 1, v - y, 0, 0, 1];
    }
    const found = between(this.reading.frames, time);
    if (!found) return IDENTITY_H;
    return atScale(mix(found[0].homography, found[1].homography, found[2]) as unknown as Homography, this.scale);
  }

  /** Its own place on the reference frame, around which it turns. */
  get middle(): readonly [number, number] {
    if (this.surface) return [0, 1].map((k) => this.surface!.reduce((s, c) => s + c[k]!, 0) / 4) as [number, number];
    return this.positionAt(this.reference);
  }
}

const mix = (a: readonly number[], b: readonly number[], t: number): number[] => a.map((v, i) => v + t * (b[i]! - v));

const kept = new WeakMap<TrackReading, Map<number, ReadingData>>();

/** The data of a reading at a scale, made once. */
export function dataOf(reading: TrackReading, scale: number): ReadingData {
  let byScale = kept.get(reading);
  if (!byScale) kept.set(reading, (byScale = new Map()));
  let data = byScale.get(scale);
  if (!data) byScale.set(scale, (data = new ReadingData(reading, scale)));
  return data;
}

/** Which parts of a motion are taken. */
export interface Parts {
  horizontal: boolean;
  vertical: boolean;
  turn: boolean;
  size: boolean;
}
export const ALL_PARTS: Parts = { horizontal: true, vertical: true, turn: true, size: true };

/** A motion as numbers: shift of a pivot, turn in radians, and the logarithm of the scale. */
export interface Motion {
  dx: number;
  dy: number;
  turn: number;
  size: number;
}

/** From positions at the reference frame to those that a motion around a pivot makes of them. */
export function motionMap(m: Motion, [px, py]: readonly [number, number]): Homography {
  const [c, s] = [Math.exp(m.size) * Math.cos(m.turn), Math.exp(m.size) * Math.sin(m.turn)];
  return [c, -s, px + m.dx - c * px + s * py, s, c, py + m.dy - s * px - c * py, 0, 0, 1];
}

/** The motion of a point, two points or a plane since the reference frame, in the parts that are asked for. */
export function motionAt(first: ReadingData, second: ReadingData | null, time: number, parts: Parts): Motion {
  const [px, py] = first.middle;
  const [x, y] = first.positionAt(time);
  let [turn, size] = [0, 0];
  if (first.kind === 'plane') {
    const map = first.mapAt(time);
    const pairs = first.surface!.map(([u, v]): Pair => {
      const [a, b] = applyHomography(map, u, v);
      return [u, v, a, b];
    });
    const like = fitMap('similarity', pairs);
    if (like) [turn, size] = [Math.atan2(like[3], like[0]), Math.log(Math.hypot(like[0], like[3]))];
  } else if (second) {
    const [qx, qy] = second.positionAt(first.reference);
    const [u, v] = second.positionAt(time);
    turn = Math.atan2(v - y, u - x) - Math.atan2(qy - py, qx - px);
    turn = Math.atan2(Math.sin(turn), Math.cos(turn));
    size = Math.log(Math.max(1e-6, Math.hypot(u - x, v - y)) / Math.max(1e-6, Math.hypot(qx - px, qy - py)));
  }
  return {
    dx: parts.horizontal ? x - px : 0,
    dy: parts.vertical ? y - py : 0,
    turn: parts.turn ? turn : 0,
    size: parts.size ? size : 0,
  };
}

export const allParts = (p: Parts): boolean => p.horizontal && p.vertical && p.turn && p.size;

/** The whole map since the reference frame: that of a plane in perspective where nothing is left out. */
export const followMap = (first: ReadingData, second: ReadingData | null, time: number, parts: Parts): Homography =>
  first.kind === 'plane' && allParts(parts) ? first.mapAt(time) : motionMap(motionAt(first, second, time, parts), first.middle);
