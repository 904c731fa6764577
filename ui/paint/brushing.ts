import { stepSpace } from '@/core/evaluate';
import type { Shot, Step } from '@/core/document';
import { findStep } from '@/core/document';
import { STEPS } from '@/core/steps';
import type { Brush } from '@/core/paint';
import { seenTap } from '../workbench/context';
import type { BrushTip, Picking } from '../workbench/state';
import { view } from '../workbench/state';

/** What the brush of a step would draw into, and whether that is seen in its picture; null where it has none. */
export function brushingOf(step: Step): Picking | null {
  for (const [param, d] of Object.entries(STEPS.get(step.type)?.params ?? {})) {
    // A matte that is brushed is seen in alpha only.
    if (d.kind === 'strokes') return { step: step.id, param, shows: d.coloured === true && step.params.output !== 'matte' };
  }
  return null;
}

/** Takes the brush, or lays it down. */
export function toggleBrush(shot: Shot, brushing: Picking): void {
  const found = findStep(shot, brushing.step);
  if (view.get().brushing?.step === brushing.step || !found) return view.set({ brushing: null });
  const { brush, frame } = view.get();
  const own = { lane: found.lane.id, after: brushing.step };
  const seen = seenTap(shot, view.get().seen);
  // Where what is brushed is no part of what is seen, it is seen meanwhile.
  const hidden = seen !== null && seen !== undefined && !stepSpace(shot, own, seen, frame, STEPS);
  // Where only a region is brushed there is nothing but painting and erasing; a new brush never begins by erasing.
  const tool = brush.tool === 'erase' || !brushing.shows ? 'paint' : brush.tool;
  view.set({ brushing, brush: { ...brush, tool }, picking: null, drawing: null, ...(hidden && { seen: own }) });
}

export const changeTip = (by: Partial<BrushTip>): void => view.set({ brush: { ...view.get().brush, ...by } });

/** How the brushes are called and what they are for. */
export const BRUSH_WORDS: Readonly<Record<Brush, readonly [title: string, help: string]>> = {
  paint: ['Colour', 'Lays colour on'],
  tint: ['Tint', 'Hue and saturation of the brush, lightness of the picture'],
  clone: ['Clone', 'Copies from beside, from another frame or picture: Alt-click says from where'],
  heal: ['Heal', 'Copies detail from beside, in the light of where it lands: Alt-click says from where'],
  reveal: ['Reveal', 'Shows another frame or picture, in place'],
  erase: ['Erase', 'Takes back to the picture as it comes in'],
  smear: ['Smear', 'Takes colour along'],
  blur: ['Blur', 'Softens'],
  sharpen: ['Sharpen', 'Lifts detail'],
  dodge: ['Dodge', 'Lightens, by stops'],
  burn: ['Burn', 'Darkens, by stops'],
};

export const hasAmount = (tool: Brush): boolean => tool === 'dodge' || tool === 'burn' || tool === 'blur' || tool === 'sharpen';
export const hasColour = (tool: Brush): boolean => tool === 'paint' || tool === 'tint';
/** What an amount is when a brush is taken up: a stop, or two pixels. */
export const usualAmount = (tool: Brush): number => (tool === 'dodge' || tool === 'burn' ? 0.5 : 2);
