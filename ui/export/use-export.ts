import { useEffect, useRef, useState } from 'react';
import { Cancelled, messageOf } from '@/core/errors';
import type { Pass } from '@/core/layers';
import { scaleFormat } from '@/core/picture';
import type { Scratch } from '@/engine/browser';
import { MOVIES, MovieSink, scratch } from '@/engine/browser';
import { ZipSink, exportRange, filesOf } from '@/engine';
import type { RunningJob } from '../jobs/jobs';
import { startJob, useJob } from '../jobs/jobs';
import { saveBlob } from '../theme/save-blob';
import { toast } from '../theme/toast';
import { useBench, useShot } from '../workbench/context';
import type { ExportForm } from './export-form';
import { jobOf, movieOf } from './export-form';
import { FolderSink, namesIn, pickFolder } from './folder-sink';

type Answer = 'over' | 'keep' | 'stop';

interface Asked {
  there: number;
  of: number;
  first: string;
  reply(answer: Answer): void;
}

/** Carries an export out: progress, stopping, and the question what to do with files that are there already. */
export function useExport(onDone: () => void) {
  const shot = useShot();
  const { viewer } = useBench();
  const job = useJob('export');
  const mounted = useRef(true);
  useEffect(
    () => () => {
      mounted.current = false;
    },
    [],
  );
  const [asked, setAsked] = useState<Asked | null>(null);

  const ask = (there: ReadonlySet<string>, of: number): Promise<Answer> =>
    there.size === 0 ? Promise.resolve('over') : new Promise((reply) => setAsked({ there: there.size, of, first: [...there][0]!, reply }));

  const start = async (form: ExportForm, passes: readonly Pass[], to: 'download' | 'folder', slug: string): Promise<void> => {
    const since = performance.now();
    const wanted = jobOf(form, passes);
    const kind = movieOf(form.kind);
    let movie: MovieSink | null = null;
    let zipFile: Scratch | null = null;
    let running: RunningJob | null = null;
    try {
      const folder = to === 'folder' ? await pickFolder() : null;
      const movieName = kind && `${wanted.name.replace(/[._-]?#+/g, '')}.${MOVIES[kind].ending}`;
      const names = movieName ? [movieName] : filesOf(wanted).map((f) => f.name);
      const there = folder ? await namesIn(folder, names) : new Set<string>();
      const answer = await ask(there, names.length);
      if (answer === 'stop') return;
      const only = answer === 'keep' ? (name: string) => !there.has(name) : () => true;
      if (movieName && !only(movieName)) return toast('info', `${movieName} is there already and was kept; nothing was written.`);
      if (kind) {
        const { width, height } = scaleFormat(shot.format, wanted.scale);
        movie = await MovieSink.open(kind, width & ~1, height & ~1, shot.frameRate / (wanted.step ?? 1), form.movieQuality);
      }
      if (!movie && !folder) zipFile = await scratch();
      const zip = zipFile && new ZipSink(zipFile.target);
      const sink = movie ?? zip ?? new FolderSink(folder!);
      running = startJob('export', `Exporting ${movieName ?? wanted.name}`, 'frames', filesOf(wanted).length);
      await exportRange(viewer.pool, shot, wanted, sink, viewer.pool.size, running.tell, running.signal, movie ? undefined : only);
      if (movie && movieName) {
        const blob = await movie.finish();
        if (folder) await new FolderSink(folder).write(movieName, blob);
        else saveBlob(blob, movieName);
      } else if (zip && zipFile) {
        await zip.finish();
        saveBlob(await zipFile.file('application/zip'), `${slug}.zip`);
      }
      const count = movie ? filesOf(wanted).length : names.filter(only).length;
      toast('info', `${count} frames exported in ${((performance.now() - since) / 1000).toFixed(1)} s.`);
      // The dialog may have been closed, and another opened, while it ran.
      if (mounted.current) onDone();
    } catch (e) {
      await movie?.cancel().catch(() => undefined);
      await zipFile?.target.abort(e).catch(() => undefined);
      await zipFile?.discard();
      if (e instanceof Cancelled) toast('info', 'The export was stopped; no file was made by it after that.');
      else if ((e as Error).name !== 'AbortError') toast('error', `The export stopped: ${messageOf(e)}`);
    } finally {
      running?.end();
    }
  };

  return {
    job,
    asked,
    start,
    answer: (a: Answer): void => {
      asked?.reply(a);
      setAsked(null);
    },
  };
}
