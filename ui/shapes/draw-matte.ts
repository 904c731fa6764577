import type { Shot, Tap } from '@/core/document';
import { findStep } from '@/core/document';
import type { ShotSession } from '@/store';
import type { Change } from '@/core/commands';
import { shapesLane } from '@/core/commands';
import { toast } from '../theme/toast';
import { attempt } from '../workbench/attempt';
import { view } from '../workbench/state';
import { takeTool } from './shaping';

/** The picture that a matte is drawn on, and what gets it then. */
export interface MatteDrawing {
  on(shot: Shot): Tap;
  connect(tap: Tap): Change;
}

/** A matte for something is drawn: on the picture that it belongs to, in a lane of its own, with the pen in hand. One undo takes all of it away. */
export function drawMatte(session: ShotSession, name: string, { on, connect }: MatteDrawing): void {
  const made: { lane?: string; step?: string } = {};
  const done = attempt(session, `Draw ${name}`, (s) => {
    shapesLane(on(s as Shot), name, made)(s);
    connect({ lane: made.lane! })(s);
  });
  const step = done && made.step ? findStep(session.store.getState().shot, made.step)?.step : null;
  if (!step) return;
  view.set({ selection: { kind: 'step', id: step.id }, seen: { lane: made.lane! }, tab: 'lanes' });
  takeTool('pen', step);
  toast('info', 'Draw the shapes on its picture. Result, at the left above the picture, leads back.');
}
