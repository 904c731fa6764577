import { dataOf, isTrack } from '@/core/readings';
import { useShotPart } from '../workbench/context';
import { useView } from '../workbench/state';

/** How far the picture is moved, in its own pixels, so that a point's detail, or the middle of a plane's surface, stays still; null where nothing is held. */
export function useHeldStill(): readonly [number, number] | null {
  const held = useView((s) => s.held);
  const frame = useView((s) => s.frame);
  const reading = useShotPart('readings').find((r) => r.id === held);
  if (!isTrack(reading) || reading.frames.length === 0) return null;
  const data = dataOf(reading, 1);
  const [[x, y], [u, v]] = [data.positionAt(reading.reference), data.positionAt(frame)];
  return [x - u, y - v];
}
