import * as yup from 'yup';
import { flag as bool, frame, name, once, real, text } from '../../document/fields';
import { TEACHES, VARIATIONS } from '../../learn/lesson';
import { LessonData, filesOfLesson } from '../../learn/reading';
import type { LessonReading } from '../types';
import { ORDER, common, inOrder, numbersOf, share, tap } from './fields';
import type { ReadingKind } from './kind';
import { decimal, eachTap } from './kind';

const file = () =>
  yup.object({
    hash: text().matches(/^[0-9a-f]{64}$/, '${path} is not a SHA-256 hash'),
    name: name(),
    path: yup.string().strict().optional(),
  });

const schema = yup.object({
  ...common,
  kind: text().oneOf(['lesson']),
  teaches: text().oneOf(TEACHES),
  settings: yup
    .object({
      seed: real().integer().min(0).max(1e9),
      minutes: real().min(0.1).max(600),
      variation: yup.object(Object.fromEntries(VARIATIONS.map((v) => [v, share()]))).required(),
    })
    .required(),
  examples: yup
    .array(yup.object({ frame: frame(), target: yup.object(tap).required(), held: bool().required() }))
    .required()
    .max(200),
  passers: yup.array(yup.object(tap)).required().max(20),
  weights: file().nullable().defined().default(null),
  steps: real().integer().min(0),
  seconds: real().min(0),
  losses: yup
    .array(numbersOf((v) => v.length === 3))
    .required()
    .max(2000),
  snapshots: yup
    .array(yup.object({ id: text(), steps: real().integer().min(0), loss: real(), file: file().required() }))
    .required()
    .max(50),
  frames: yup
    .array(
      once(
        yup.object({
          frame: frame(),
          confidence: share(),
          error: real().min(0),
          flag: yup.string().strict().oneOf(['doubtful']).optional(),
        }),
      ),
    )
    .required()
    .test('order', ORDER, inOrder),
});

/** What a small net is taught by a few frames. */
export const LESSON: ReadingKind<LessonReading> = {
  schema,
  taps: (r) => [
    ...r.examples.map(({ frame: f, target }) => ({ tap: target, kind: 'lesson' as const, use: `example of frame ${f}` })),
    ...r.passers.map((passer) => ({ tap: passer, kind: 'lesson' as const, use: 'passer' })),
  ],
  moveTaps(r, to) {
    r.passers = eachTap(r.passers, to);
    r.examples = r.examples.flatMap((e) => {
      const target = to(e.target);
      return target ? [{ ...e, target }] : [];
    });
  },
  files: filesOfLesson,
  data: ({ teaches, weights }) => weights && new LessonData(teaches, weights.hash),
  table: (r) => ['frame,sureness,spread,flag', ...r.frames.map((f) => [f.frame, decimal(f.confidence), decimal(f.error), f.flag ?? ''])],
};
