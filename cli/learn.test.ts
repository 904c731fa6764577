import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { readLesson } from '@/core/learn/lesson-file';
import { refused, run as ostracon } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'ostracon-learn-'));
const run = (...args: string[]) => ostracon('learn', ...args);
const shot = 'demo/shots/sg010-coat.json';

test('a lesson is trained from the first step, and gone on with from a file, by one worker and by two', () => {
  // Without what the demo has learnt.
  const json = JSON.parse(readFileSync(shot, 'utf8')) as { sources: { path: string }[]; readings: Record<string, unknown>[] };
  for (const s of json.sources) s.path = resolve('demo/shots', s.path);
  Object.assign(json.readings[0]!, { weights: null, steps: 0, seconds: 0, losses: [] });
  const fresh = join(folder, 'fresh.json');
  writeFileSync(fresh, JSON.stringify(json));
  const out = join(folder, 'a.lesson');
  const first = run('train', fresh, '--minutes', '0.05', '--workers', '1', '--out', out);
  expect(first.status).toBe(0);
  expect(first.out).toMatch(/a\.lesson [0-9a-f]{64}\n$/);
  const { note } = readLesson(readFileSync(out), out);
  expect(note).toMatchObject({ name: 'Coat', teaches: 'matte', about: { frames: [6, 18, 30, 42] } });
  expect(note.steps).toBeGreaterThan(3);
  const further = join(folder, 'b.lesson');
  expect(run('train', shot, '--lesson', 'Coat', '--minutes', '0.05', '--out', further).status).toBe(0);
  expect(readLesson(readFileSync(further), further).note.steps).toBeGreaterThan(6002);
}, 120_000);

test.each([
  [['paint', shot], 2, /takes train/],
  [['train', shot, '--minutes', 'soon'], 2, /--minutes is a number/],
  [['train', shot, '--lesson', 'Hat'], 1, /there are "Coat"/],
  [['train', 'demo/shots/sg020.json'], 1, /has no lesson/],
  [['train', shot, '--out', 'x.zip'], 2, /ends in .lesson/],
  [['train', shot, '--from', 'demo/shots/sg010.json'], 1, /no lesson/],
] as const)('what is wrong is told: %j', async (args, status, said) => {
  const r = await refused('learn', ...args);
  expect(r.err).toMatch(said);
  expect(r.status).toBe(status);
});
