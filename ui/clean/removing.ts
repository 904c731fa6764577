import { create } from 'zustand';
import type { Shot, Tap } from '@/core/document';
import type { RemoveBy } from '@/core/assemblies';
import { seenTap } from '../workbench/context';
import { view } from '../workbench/state';

/** What is to be taken out: outlines drawn on one frame of what was seen. */
interface Removing {
  tap: Tap | null;
  frame: number;
  outlines: readonly (readonly number[])[];
  by: RemoveBy;
  /** A reading's id, '' for one to be made; a lane's id, '' for none. */
  reading: string;
  front: string;
  grain: boolean;
  name: string;
  /** Of a place beside it; as wide as it is and a third, to the left, until somebody says. */
  shift: readonly [number, number] | null;
}

const fresh: Removing = {
  tap: null,
  frame: 1,
  outlines: [],
  by: 'patches',
  reading: '',
  front: '',
  grain: true,
  name: 'Removed',
  shift: null,
};

export const useRemoving = create<Removing>(() => fresh);

const draw = (): void =>
  view.set({ drawing: { kind: 'remove' }, picking: null, brushing: null, probing: false, playing: false, dialog: null });

export const removing = {
  /** Begins with nothing drawn. */
  start: (): void => {
    useRemoving.setState(fresh);
    draw();
  },
  set: (by: Partial<Removing>): void => useRemoving.setState(by),
  /** One outline more, on the same frame. */
  more: (): void => {
    view.set({ frame: useRemoving.getState().frame });
    draw();
  },
  /** An outline was closed: what comes into its place is asked. */
  drawn: (shot: Shot, outline: readonly number[], frame: number): void => {
    const had = useRemoving.getState();
    const tap = had.tap ?? seenTap(shot, view.get().seen);
    useRemoving.setState({ tap, frame, outlines: had.frame === frame ? [...had.outlines, outline] : [outline] });
    view.set({ drawing: null, dialog: 'remove' });
  },
};
