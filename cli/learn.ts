import { createHash } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { ShotError } from '@/core/errors';
import { lookOf, readLesson } from '@/core/learn';
import type { LessonReading } from '@/core/readings';
import { RGBA } from '@/core/picture';
import type { OpenShot } from '@/engine/node';
import { nodeHost, openBundleFile, openShotFile, readBytes, trainInNode } from '@/engine/node';
import { lessonInput, shownOf } from '@/engine';
import { UsageError, only, parseArguments, userPath } from './arguments';
import { whenLeft } from './leaving';
import { writeWhole } from './write-file';

/** learn train SHOT --lesson NAME --minutes N [--from LESSON] --out LESSON */
export async function learn(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, []);
  only(options, ['lesson', 'minutes', 'from', 'out', 'workers']);
  const [verb, file] = words;
  if (verb !== 'train' || !file || words.length !== 2) throw new UsageError('learn takes train, and one shot file or bundle');
  const minutes = Number(options.get('minutes') ?? 2);
  if (!(minutes > 0 && minutes <= 600)) throw new UsageError('--minutes is a number over 0, and 600 at most');
  const path = userPath(file);
  const opened = await (path.endsWith('.ostracon') ? openBundleFile(path) : openShotFile(path));
  const forget = whenLeft(() => opened.closeNow());
  try {
    const lesson = lessonNamed(opened, options.get('lesson'));
    const out = userPath(options.get('out') ?? `${lesson.name}.lesson`);
    if (!out.endsWith('.lesson')) throw new UsageError('--out ends in .lesson');
    await train(opened, lesson, minutes, out, options);
  } finally {
    forget();
    opened.closeNow();
  }
}

function lessonNamed({ shot }: OpenShot, name: string | undefined): LessonReading {
  const lessons = shot.readings.filter((r): r is LessonReading => r.kind === 'lesson');
  if (lessons.length === 0)
    throw new ShotError('the shot has no lesson: make one in the browser, under Readings, and save the shot as a bundle');
  const found = name === undefined && lessons.length === 1 ? lessons[0] : lessons.find((l) => l.name === name || l.id === name);
  if (!found) throw new ShotError(`name a lesson with --lesson: there are ${lessons.map((l) => `"${l.name}"`).join(', ')}`);
  return found;
}

async function train(
  { shot, files }: OpenShot,
  lesson: LessonReading,
  minutes: number,
  out: string,
  options: ReadonlyMap<string, string>,
): Promise<void> {
  const host = await nodeHost(files);
  const { input, said } = await lessonInput(lesson, async (tap, frame) =>
    shownOf(await host.render(shot, { tap, frame, scale: 1, channels: RGBA }), true),
  );
  said.forEach((what) => process.stderr.write(`${what}\n`));
  const own = lesson.weights ? files.get(lesson.weights.hash) : undefined;
  const given = options.get('from');
  const from = given ? userPath(given) : own;
  const before = from === undefined ? null : readLesson(await readBytes(from), from);
  const goesOn = before !== null && !given;
  const two = (options.get('workers') ?? String(availableParallelism())) !== '1';
  let shown = 0;
  const { session, stop } = await trainInNode(
    {
      ...input,
      look: goesOn && !lesson.stale ? before.learnt.look : lookOf(input.examples, input.teaches),
      seed: lesson.settings.seed,
      ...(before && { from: goesOn ? before.state : { weights: before.learnt.weights } }),
    },
    (r) => r.seconds >= 60 * minutes,
    (r) => {
      if (r.seconds - shown < 5) return;
      shown = r.seconds;
      const held = r.held === null ? '' : `, held back ${r.held.toPrecision(3)}`;
      process.stderr.write(
        `step ${r.step}, ${r.seconds.toFixed(0)} s, ${r.perSecond.toFixed(1)} a second, loss ${r.loss.toPrecision(3)}${held}\n`,
      );
    },
    two ? new URL(import.meta.url) : undefined,
  );
  const bytes = session.file(lesson.name);
  await stop();
  await writeWhole(out, bytes);
  process.stdout.write(`${out} ${createHash('sha256').update(bytes).digest('hex')}\n`);
}
