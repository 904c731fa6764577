import { create } from 'zustand';
import type { Step } from '@/core/document';
import { applies } from '@/core/document';
import { STEPS } from '@/core/steps';
import { shapesParam } from '@/core/commands';
import type { Keying, Shape } from '@/core/shape';
import { view } from '../workbench/state';

export const SHAPE_TOOLS = ['select', 'pen', 'free', 'ellipse', 'box', 'push'] as const;
export type ShapeTool = (typeof SHAPE_TOOLS)[number];

/** How shapes are worked on; nothing here is undone. */
interface Shaping {
  tool: ShapeTool;
  /** The shape in hand, and its chosen points. */
  shape: string | null;
  points: readonly number[];
  keying: Keying;
  /** Outlines of the keys before and after the frame. */
  onion: boolean;
  /** Radius of the pushing brush, in pixels of the screen. */
  reach: number;
  copied: readonly Shape[];
  /** The matte was laid over the picture for drawing; it goes again with the selection. */
  overlaid: boolean;
}

const fresh = { tool: 'select', shape: null, points: [], keying: 'here', onion: false, reach: 60, overlaid: false } as const;

export const useShaping = create<Shaping>(() => ({ ...fresh, copied: [] }));
export const shaping = {
  get: useShaping.getState,
  set: (change: Partial<Shaping>): void => useShaping.setState(change),
  /** Takes a tool, or lays it down. What else is in hand on the stage is laid down. */
  take: (tool: ShapeTool, matteInColour = false): void => {
    const overlay = matteInColour && view.get().channel === 'colour';
    view.set({ picking: null, drawing: null, brushing: null, probing: false, ...(overlay && { channel: 'overlay' }) });
    const { tool: had, overlaid } = useShaping.getState();
    useShaping.setState({ tool: had === tool ? 'select' : tool, overlaid: overlaid || overlay });
  },
  choose: (shape: string | null, points: readonly number[] = []): void => useShaping.setState({ shape, points }),
};

// Another step's shapes are other shapes.
view.onSelect(() => {
  const { overlaid } = useShaping.getState();
  useShaping.setState({ tool: 'select', shape: null, points: [], overlaid: false });
  if (overlaid && view.get().channel === 'overlay') view.set({ channel: 'colour' });
});

/** Outlines' colours on the stage, by the number of a shape's mark: told apart on skin, sky and foliage. */
export const MARKS = ['#e9e3d8', '#79b0a8', '#d8a848', '#c99ad8', '#88a8e4', '#f0a27c', '#8cc492', '#ec8a72'] as const;
export const markOf = (s: Pick<Shape, 'mark'>): string => MARKS[s.mark % MARKS.length]!;

/** Whether a step's or zone's shapes have an effect as it is set. */
export function drawsShapes(step: Step): boolean {
  const name = shapesParam(step);
  return name !== null && applies(STEPS.get(step.type)!.params, name, step);
}

/** Takes a tool for a step; where its matte leaves the colour, the matte is laid over the picture meanwhile. */
export const takeTool = (tool: ShapeTool, step: Step): void =>
  shaping.take(tool, step.type === 'roto' && (step.params.effect ?? 'replace') === 'replace');
