'use client';
import { LRUCache } from 'lru-cache';
import type { Shot, Source, Tap } from '@/core/document';
import { findStep } from '@/core/document';
import { makePlan } from '@/core/evaluate';
import { idLayers } from '@/core/formats';
import type { PictureInfo } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { useShotState } from '../workbench/context';
import { useView } from '../workbench/state';

/** The point that a step stands on; null where it is no step of a lane. */
export function inputTap(shot: Shot, step: string): Tap | null {
  const found = findStep(shot, step);
  return found && { lane: found.lane.id, after: found.lane.steps[found.index - 1]?.id ?? '' };
}

interface Point {
  info: PictureInfo;
  key: string;
}

/** By the shot as it is, an immutable value: several fields of a panel ask for the same. */
const known = new WeakMap<Shot, Map<string, Point | null>>();

/** What is known of the picture at a point without its pixels, and a key that stands for those; null where that cannot be planned. */
function pointAt(shot: Shot, tap: Tap | null, frame: number): Point | null {
  if (!tap) return null;
  const points = known.get(shot) ?? new Map<string, Point | null>();
  known.set(shot, points);
  const place = `${tap.lane} ${tap.after} ${frame}`;
  let point = points.get(place);
  if (point === undefined) points.set(place, (point = planned(shot, tap, frame)));
  return point;
}

function planned(shot: Shot, tap: Tap, frame: number): Point | null {
  try {
    const { root } = makePlan(shot, { tap, frame, scale: 1, channels: ['A'] }, STEPS);
    return { info: root.info, key: root.key };
  } catch {
    return null;
  }
}

export const infoAt = (shot: Shot, tap: Tap | null, frame: number): PictureInfo | null => pointAt(shot, tap, frame)?.info ?? null;

/** The picture that a step stands on. */
export interface Input {
  tap: Tap | null;
  info: PictureInfo | null;
  /** Stands for its pixels at the frame. */
  key: string;
}

/** Those that were given out, by what they stand for: as long as the input is the same, so is what is told of it, and nothing is drawn again. */
const inputs = new LRUCache<string, Input>({ max: 64 });

function inputOf(shot: Shot, tap: Tap | null, frame: number): Input {
  const point = pointAt(shot, tap, frame);
  const id = `${tap?.lane} ${tap?.after} ${point?.key}`;
  let input = inputs.get(id);
  if (!input) {
    input = { tap, info: point?.info ?? null, key: point?.key ?? '' };
    inputs.set(id, input);
  }
  return input;
}

export function useInput(step: string): Input {
  const frame = useView((s) => s.frame);
  return useShotState(({ shot }) => inputOf(shot, inputTap(shot, step), frame));
}

/** Any point's picture, some frames later. */
export function useTapInput(tap: Tap | null, later = 0): Input {
  const frame = useView((s) => s.frame) + later;
  return useShotState(({ shot }) => inputOf(shot, tap, frame));
}

type Names = Readonly<Record<string, string>>;

/** By a source, an immutable value: a manifest of thousands of names is read once, not at each move of the pointer. */
const manifests = new WeakMap<Source, ReadonlyMap<string, Names>>();

/** Names by id of a set of ids, of all sources that tell some. */
export function idNames(shot: Shot, set: string): Names {
  return Object.assign({}, ...shot.sources.map((s) => namesIn(s).get(set))) as Names;
}

function namesIn(source: Source): ReadonlyMap<string, Names> {
  let found = manifests.get(source);
  if (!found) {
    const layers = idLayers(Object.fromEntries(source.attributes ?? []), source.channels);
    manifests.set(source, (found = new Map(layers.map((l) => [l.name, l.manifest]))));
  }
  return found;
}
