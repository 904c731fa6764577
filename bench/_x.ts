import { isMainThread, workerData } from 'node:worker_threads';
import { isPartner, serveTraining } from '@/engine/node/training';
import { greenCoat } from './learning-accuracy';
if (!isMainThread && isPartner(workerData)) await serveTraining();
else process.stdout.write(await greenCoat('.', new URL(import.meta.url)));
