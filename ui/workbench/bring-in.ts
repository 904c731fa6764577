import { Cancelled } from '@/core/errors';
import type { Source } from '@/core/document';
import { filesOf, isPicture, outsideShot, spanOf } from '@/core/document';
import type { BroughtIn, GivenFile } from '@/store';
import { commands } from '@/core/commands';
import { bringIn } from '@/store';
import { startJob, useJobs } from '../jobs/jobs';
import { toast, toastError } from '../theme/toast';
import { attempt } from './attempt';
import type { Bench } from './context';
import { view } from './state';

/** Reads and keeps files with progress and a way to stop; tells what was wrong with them. Null where nothing came of it. */
async function take(files: readonly GivenFile[], bench: Bench, link: boolean): Promise<BroughtIn | null> {
  if (files.length === 0) return null;
  if (useJobs.getState().list.some((j) => j.kind === 'bring in')) {
    toast('warning', 'Other files are still being brought in; drop these again when that is done.');
    return null;
  }
  const job = startJob('bring in', 'Bringing in', 'files', files.length);
  try {
    const found = await bringIn(files, bench.viewer.pool, { link, progress: job.tell, signal: job.signal });
    found.warnings.forEach((w) => toast('warning', w));
    found.errors.slice(0, 3).forEach((e) => toast('error', e));
    if (found.errors.length > 3) toast('error', `${found.errors.length - 3} more files could not be read.`);
    return found;
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(e);
    return null;
  } finally {
    job.end();
  }
}

/** Files become sources of the shot. */
export async function bringInFiles(files: readonly GivenFile[], bench: Bench, link = false): Promise<void> {
  const found = await take(files, bench, link);
  if (!found?.sources.length) return;
  const label = found.sources.length === 1 ? `Bring in ${found.sources[0]!.name}` : `Bring in ${found.sources.length} sources`;
  attempt(bench.session, label, (s) => {
    for (const source of found.sources) commands.addSource(source)(s);
  });
  const { shot } = bench.session.store.getState();
  const added = shot.sources.filter((s) => found.sources.some((f) => f.id === s.id));
  const picture = added.find(isPicture);
  if (picture && shot.lanes.length === 0) view.set({ selection: { kind: 'source', id: picture.id } });
  for (const source of added) offerAlign(bench, source);
}

/** A source that stands nowhere in the shot shows its end frame alone: told, with the way out. */
function offerAlign(bench: Bench, source: Source): void {
  const { shot } = bench.session.store.getState();
  const side = outsideShot(source, shot);
  if (!side) return;
  const { first, last } = spanOf(source, shot.frameRate);
  toast('warning', `"${source.name}" stands at ${first}–${last}, ${side} the shot's ${shot.range.first}–${shot.range.last}.`, {
    label: `Start it at ${shot.range.first}`,
    run: () => attempt(bench.session, `Align ${source.name}`, commands.alignSource(source.id)),
  });
}

/** Other media takes a source's place, another version of it for instance. */
export async function replaceMedia(source: Source, files: readonly GivenFile[], bench: Bench): Promise<void> {
  const found = await take(files, bench, false);
  const by = found?.sources[0];
  if (!by) return;
  if (found.sources.length > 1) toast('warning', `These files are ${found.sources.length} sources; "${by.name}" was taken.`);
  attempt(bench.session, `Replace ${source.name}`, commands.replaceSource(source.id, by));
}

/** Media can be had that could not be before: everything is drawn again. */
export function drawAnew({ viewer, session }: Bench): void {
  viewer.clear();
  session.refresh();
}

/** Finds missing media of a source among files: by their contents first, else by their names. */
export async function relinkMedia(source: Source, files: readonly GivenFile[], bench: Bench): Promise<void> {
  const found = await take(files, bench, false);
  if (!found) return;
  const given = found.sources.flatMap(filesOf);
  const hashes = new Set(given.map((f) => f.hash));
  const byName = new Map(given.map((f) => [f.name, f]));
  const others = new Map<string, { hash: string; name: string }>();
  let same = 0;
  for (const f of filesOf(source)) {
    const named = byName.get(f.name);
    if (hashes.has(f.hash)) same++;
    else if (named) others.set(f.hash, { hash: named.hash, name: named.name });
  }
  if (others.size) attempt(bench.session, `Find files of ${source.name}`, commands.relinkSource(source.id, others));
  // Contents that came back change nothing in the shot, but every picture that failed for want of them.
  else if (same) drawAnew(bench);
  const total = filesOf(source).length;
  if (same + others.size === 0)
    return toast('error', `None of these files is one of "${source.name}": neither contents nor names are the same.`);
  const changed = others.size ? `, ${others.size} of them by name only: their contents are others than before` : '';
  toast(
    same + others.size < total ? 'warning' : 'info',
    `${same + others.size} of ${total} files of "${source.name}" were found${changed}.`,
  );
}
