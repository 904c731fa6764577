import { addLesson } from '@/core/commands';
import { toast } from '../theme/toast';
import { attempt } from '../workbench/attempt';
import type { Bench } from '../workbench/context';
import { seenTap } from '../workbench/context';
import { view } from '../workbench/state';

/** A lesson on what is seen, selected. */
export function newLessonIn({ session }: Bench): void {
  const { shot } = session.store.getState();
  const tap = seenTap(shot, view.get().seen);
  if (!tap) return toast('info', 'There is no lane to teach on: bring in a plate first.');
  const made: { reading?: string } = {};
  attempt(session, 'New lesson', addLesson(tap, view.get().frame, 'matte', made));
  if (made.reading) view.set({ selection: { kind: 'reading', id: made.reading }, dock: 'readings', tab: 'readings', seen: tap, layer: '' });
}
