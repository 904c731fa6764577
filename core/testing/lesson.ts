import type { Learnt } from '../learn/apply';
import type { Teaches } from '../learn/lesson';
import { guessOf } from '../learn/lesson';
import { TABLE } from '../learn/look';
import { firstWeights } from '../learn/net';
import { newLesson } from '../learn/reading';
import type { LessonReading } from '../readings/types';

/** A lesson that has learnt something, as a reading: its id is what it teaches. */
export const testLesson = (teaches: Teaches): LessonReading => ({
  ...newLesson(teaches),
  kind: 'lesson',
  id: teaches,
  name: teaches,
  from: { lane: 'main', after: '' },
  channel: 'luma',
  reference: 1,
  range: { first: 1, last: 10 },
  weights: { hash: Buffer.from(teaches).toString('hex').padEnd(64, '0'), name: `${teaches}.lesson` },
});

/** What it has learnt: a table in which brighter is more, corrected by weights that are not trained. */
export function testLearnt(teaches: Teaches): Learnt {
  const look = {
    whiten: Float32Array.from([2, 0, 0, -0.8, 0, 2, 0, -0.8, 0, 0, 2, -0.8]),
    box: Float32Array.from([0, 0, 0, 31, 31, 31]),
    table: Float32Array.from({ length: TABLE ** 3 }, (_, i) => ((i % 32) + (Math.floor(i / 32) % 32) + Math.floor(i / 1024)) / 93),
  };
  return { teaches, weights: firstWeights(guessOf(teaches), 4), look };
}
