import { useMemo } from 'react';
import type { Bench } from '../workbench/context';
import { tapName } from '../workbench/context';
import type { Backing, Compare, CompareMode, Pin } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { usePinned } from '../workbench/use-picture';
import type { OtherLook } from './look';
import { useOnStage } from './on-stage';
import type { StagePlace } from './place';

export const MODES: readonly { value: CompareMode; label: string; help: string }[] = [
  { value: 'off', label: 'Off', help: 'Only what is seen' },
  { value: 'wipe', label: 'Wipe', help: 'A line that moves and turns parts the two' },
  { value: 'side', label: 'Side by side', help: 'What is seen at the left, the pin at the right' },
  { value: 'flip', label: 'Flip', help: 'The pin in the place of what is seen' },
  { value: 'difference', label: 'Difference', help: 'How far the two are apart, brightened' },
];

/** Keeps what is seen now in a slot: as a point of the shot, or as a picture that stays as it is. */
export function pinSeen({ session, viewer }: Bench, slot: number, snapshot: boolean): void {
  const { shot } = session.store.getState();
  const { seen, looked, layer, pins, frame } = view.get();
  const source = shot.sources.find((s) => s.id === looked);
  const tap = seen ?? (shot.result === null ? null : { lane: shot.result });
  if (!tap && !source) return;
  const { rendered, scale } = useOnStage.getState();
  // A source is no point of the shot: its picture is kept.
  snapshot ||= source !== undefined;
  const name = `${source?.name ?? tapName(shot, tap!)}${layer ? ` · ${layer}` : ''}`;
  const pin: Pin = {
    label: snapshot ? `${name}, kept at ${frame}` : name,
    tap: seen,
    layer,
    ...(snapshot && rendered && { snapshot: { rendered, scale } }),
  };
  if (pin.snapshot) viewer.keep(pin.snapshot.rendered);
  view.set({ pins: pins.map((p, i) => (i === slot ? pin : p)) });
}

/** Shows a pin's point on the stage; of a picture that was kept, compares by flipping. */
export function recallPin(slot: number): void {
  const { pins, compare } = view.get();
  const pin = pins[slot];
  if (!pin) return;
  if (pin.snapshot)
    view.set({ compare: { ...compare, pin: slot, mode: compare.mode === 'flip' && compare.pin === slot ? 'off' : 'flip' } });
  else view.set({ seen: pin.tap, layer: pin.layer, compare: compare.mode === 'flip' ? { ...compare, mode: 'off' } : compare });
}

/** Another way of comparing, or none, ends the comparison of two versions unless it says otherwise. */
export const setCompare = (change: Partial<Compare>): void =>
  view.set({ compare: { ...view.get().compare, ...(change.mode === 'off' && { base: null }), ...change } });

/** Wipes against the pin that is chosen; without one what is seen now is kept as the first. */
export function toggleWipe(bench: Bench): void {
  const { compare, pins } = view.get();
  if (compare.mode === 'wipe') return setCompare({ mode: 'off' });
  if (!pins[compare.pin]) pinSeen(bench, compare.pin, true);
  setCompare({ mode: 'wipe' });
}

/** The direction from the picture to the other across the wipe's line. */
export const wipeNormal = (angle: number): [number, number] => [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];

/** The picture of the lane that lies behind what is seen, where a lane is the backing. */
export function useBacking(backing: Backing): { rendered: OtherLook['rendered']; scale: number } | null {
  const lane = backing.startsWith('lane ') ? backing.slice(5) : null;
  const pin = useMemo((): Pin | null => (lane === null ? null : { label: 'backing', tap: { lane }, layer: '' }), [lane]);
  return usePinned(pin);
}

/** What is compared with, as the stage draws it: null where nothing is, or it is not there yet. */
export function useOther(
  place: StagePlace,
  format: { width: number; height: number },
  ratio: number,
): { other: OtherLook | null; flipped: { rendered: OtherLook['rendered']; scale: number } | null } {
  const compare = useView((s) => s.compare);
  const pin = useView((s) => s.pins[s.compare.pin] ?? null);
  const picture = usePinned(compare.mode === 'off' ? null : pin);
  const { mode } = compare;
  if (!picture || mode === 'off') return { other: null, flipped: null };
  const base = compare.base?.snapshot ?? null;
  if (mode === 'flip') return { other: null, flipped: picture };
  const [x, y] = [(place.x + compare.x * format.width * place.zoom) * ratio, (place.y + compare.y * format.height * place.zoom) * ratio];
  const other: OtherLook = { ...picture, mode, wipe: [x, y, ...wipeNormal(compare.angle)], gain: compare.gain };
  return { other, flipped: base };
}
