'use client';
import { useMemo } from 'react';
import type { Zone } from '@/core/document';
import type { Posed, Shape } from '@/core/shape';
import { OUTLINE_SIZE, POINT_SIZE, flatten, pointsAt, withPointsAt } from '@/core/shape';
import { changeSome, shapesIn } from '@/core/commands';
import type { Space } from '../stage/handles/use-step-space';
import { useStepSpace } from '../stage/handles/use-step-space';
import type { StagePlace } from '../stage/place';
import { useRun, useSelectedLimited, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { shaping } from './shaping';

/** A shape as it lies in its step's picture at the frame. */
export interface Seen {
  readonly shape: Shape;
  readonly posed: Pick<Posed, 'points' | 'closed' | 'spline'>;
}

/** The selected step's or zone's shapes at the frame, its picture's place on the stage, and what changes their points. */
export function useShapes(place: StagePlace) {
  const shot = useShot();
  const { step, lane } = useSelectedLimited()!;
  const frame = useView((s) => s.frame);
  const run = useRun();
  const space = useStepSpace({ lane: lane.id, after: step.type === 'zone' ? (step as Zone).last : step.id }, place);
  const list = shapesIn(step);
  const { readings } = shot;
  const seen = useMemo(
    () => list.map((shape): Seen => ({ shape, posed: { ...shape, points: pointsAt({ readings }, shape, frame) } })),
    [list, readings, frame],
  );
  /** Puts points of a shape, as they lie in the picture, into its keys. */
  const put = (label: string, id: string, points: readonly number[], gesture?: string): boolean =>
    run(
      label,
      changeSome(step.id, [id], (s, now) => withPointsAt(now, s, frame, points, shaping.get().keying)),
      gesture,
    );
  return { shot, step, frame, run, space, seen, put };
}

export const pointAt = (points: readonly number[], i: number): [number, number] => [points[i * POINT_SIZE]!, points[i * POINT_SIZE + 1]!];

/** The outward directions of an outline at its points: across the line between the neighbours, away from the inside. */
export function outwardsOf({ points, closed }: Seen['posed']): (i: number) => [number, number] {
  const n = points.length / POINT_SIZE;
  let area = 0;
  for (let k = 0; k < n; k++) {
    const [a, b] = [pointAt(points, k), pointAt(points, (k + 1) % n)];
    area += a[0] * b[1] - b[0] * a[1];
  }
  const sign = closed && area < 0 ? -1 : 1;
  return (i) => {
    const [p, q] = [pointAt(points, (i + n - 1) % n), pointAt(points, (i + 1) % n)];
    const [dx, dy] = [q[1] - p[1], p[0] - q[0]];
    const length = sign * (Math.hypot(dx, dy) || 1);
    return [dx / length, dy / length];
  };
}

/** An outline as it lies on the stage, x and y after each other. */
export function outlineOnStage(posed: Seen['posed'], space: Space): number[] {
  const flat = flatten(posed);
  const out: number[] = [];
  for (let i = 0; i < flat.length; i += OUTLINE_SIZE) out.push(...space.at(flat[i]!, flat[i + 1]!));
  return out;
}
