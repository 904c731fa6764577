import type { Job } from './jobs';
import { progressText, startJob, useJobs } from './jobs';

test('jobs stand in the list until they end, count for themselves, and are stopped by their signals', () => {
  const one = startJob('export', 'Exporting', 'frames', 48);
  const two = startJob('proxy', 'Proxies', 'frames', 10);
  one.tell(12, 48);
  expect(useJobs.getState().list.map((j) => [j.title, j.done, j.of])).toEqual([
    ['Exporting', 12, 48],
    ['Proxies', 0, 10],
  ]);
  useJobs.getState().list[1]!.stop();
  expect([one.signal.aborted, two.signal.aborted]).toEqual([false, true]);
  two.end();
  one.end();
  expect(useJobs.getState().list).toEqual([]);
});

test('the time left is told once it is worth waiting for', () => {
  const job: Job = { id: 1, kind: 'export', title: '', unit: 'frames', done: 12, of: 48, since: 0, stop: () => undefined };
  expect(progressText(job, 3000)).toBe('12 of 48 frames · 9 s left');
  expect(progressText(job, 300)).toBe('12 of 48 frames');
  expect(progressText({ ...job, done: 0 }, 9000)).toBe('0 of 48 frames');
});
