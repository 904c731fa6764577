import type { ShotSession } from '@/store';
import type { Change } from '@/core/commands';
import { toastError } from '../theme/toast';

/** Does something to the shot outside of a component; what is refused is told. Returns whether it was done. */
export function attempt(session: ShotSession, label: string, change: Change): boolean {
  try {
    session.run(label, change);
    return true;
  } catch (e) {
    toastError(e);
    return false;
  }
}
