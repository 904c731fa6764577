import type { Shot } from '@/core/document';
import { exportBundle } from '@/store';
import { startJob } from '../jobs/jobs';
import { saveBlob } from '../theme/save-blob';
import { toastError } from '../theme/toast';

/** Takes a shot out as a bundle, as a job that can be stopped. */
export async function saveBundle(shot: Shot): Promise<void> {
  const job = startJob('bundle', `Taking out ${shot.name}`, 'files', 1);
  try {
    saveBlob(await exportBundle(shot, job.tell, job.signal), `${shot.name}.ostracon`);
  } catch (e) {
    if (!job.signal.aborted) toastError(e);
  } finally {
    job.end();
  }
}
