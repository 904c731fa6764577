import { isMainThread, workerData } from 'node:worker_threads';
import { isPartner, serveFrames, serveTraining } from '@/engine/node';
import { refusal, runCommand } from './command';
import { leaveOnSignals } from './leaving';
import { serveMovie } from './movie-info';

try {
  if (isMainThread) {
    leaveOnSignals();
    await runCommand(process.argv.slice(2));
  } else if (isPartner(workerData)) await serveTraining();
  else await ((workerData as { movie?: string }).movie ? serveMovie() : serveFrames());
} catch (e) {
  const { status, err } = refusal(e);
  process.stderr.write(err);
  process.exit(status);
}
