'use client';
import { useEffect } from 'react';
import { movePoints, pointCount, toggleSmooth, withoutPoints } from '@/core/shape';
import { addShapes, changeSome } from '@/core/commands';
import { newGesture } from '../controls/NumberField';
import { toast } from '../theme/toast';
import { view } from '../workbench/state';
import { shaping } from './shaping';
import type { useShapes } from './use-shapes';

const ARROWS: Record<string, readonly [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** One undo for arrow presses that follow each other at once. */
let nudge = { gesture: '', at: 0 };

const isTyping = (e: KeyboardEvent): boolean =>
  (e.target as HTMLElement | null)?.closest?.('input:not([type=checkbox]), textarea, [contenteditable], [role=slider]') != null;

/** The keys of shapes, before those of the workbench: Escape, Delete, arrows, Ctrl+A, C and V, Enter for corner or smooth, [ and ] for the brush. */
export function useShapeKeys(shapes: ReturnType<typeof useShapes>): void {
  useEffect(() => {
    const key = (e: KeyboardEvent): void => {
      // An open menu has its own keys.
      if (isTyping(e) || view.get().dialog || document.querySelector('.MuiModal-root')) return;
      if (!handled(e, shapes)) return;
      e.preventDefault();
      e.stopPropagation();
    };
    window.addEventListener('keydown', key, true);
    return () => window.removeEventListener('keydown', key, true);
  });
}

function handled(e: KeyboardEvent, { seen, step, frame, run, put }: ReturnType<typeof useShapes>): boolean {
  const { tool, shape, points, reach } = shaping.get();
  const inHand = seen.find((s) => s.shape.id === shape);
  const ctrl = e.ctrlKey || e.metaKey;
  if (e.key === 'Escape') {
    if (tool !== 'select') shaping.set({ tool: 'select' });
    else if (points.length > 0) shaping.choose(shape);
    else if (shape) shaping.choose(null);
    else return false;
    return true;
  }
  if (tool === 'push' && (e.key === '[' || e.key === ']')) {
    shaping.set({ reach: Math.min(600, Math.max(8, reach * (e.key === '[' ? 0.8 : 1.25))) });
    return true;
  }
  if (ctrl && e.key.toLowerCase() === 'v' && shaping.get().copied.length > 0) {
    const ids: string[] = [];
    const pasted = run('Paste shape', addShapes(step.id, shaping.get().copied, frame, ids));
    if (pasted) shaping.choose(ids[0]!);
    return true;
  }
  if (!inHand || tool !== 'select') return false;
  if (ctrl && e.key.toLowerCase() === 'a') {
    shaping.choose(
      shape,
      Array.from({ length: pointCount(inHand.shape) }, (_, i) => i),
    );
    return true;
  }
  if (ctrl && e.key.toLowerCase() === 'c') {
    shaping.set({ copied: [inHand.shape] });
    toast('info', `${inHand.shape.name} is copied: Ctrl+V puts it among the selected step's or zone's shapes, with its keys.`);
    return true;
  }
  const chosen = new Set(points);
  if (e.key === 'Delete' || e.key === 'Backspace') {
    const some = chosen.size > 0;
    run(
      some ? 'Delete points' : 'Delete shape',
      changeSome(step.id, [inHand.shape.id], (s) => (some ? withoutPoints(s, chosen) : null)),
    );
    shaping.choose(some ? shape : null);
    return true;
  }
  const arrow = ARROWS[e.key];
  if (arrow && !ctrl && chosen.size > 0) {
    const by = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
    const now = Date.now();
    nudge = { gesture: now - nudge.at < 800 ? nudge.gesture : newGesture(), at: now };
    put(
      'Nudge points',
      inHand.shape.id,
      movePoints(inHand.posed.points, chosen, (x, y) => [x + by * arrow[0], y + by * arrow[1]]),
      nudge.gesture,
    );
    return true;
  }
  if (e.key === 'Enter' && chosen.size > 0) {
    put('Corner or smooth', inHand.shape.id, toggleSmooth(inHand.posed.points, chosen, inHand.shape.closed));
    return true;
  }
  return false;
}
