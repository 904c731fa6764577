'use client';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { Shot, Source } from '@/core/document';
import { isPicture, sourceShot, spanOf } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import { JobRow } from '../jobs/Jobs';
import { startJob, useJob } from '../jobs/jobs';
import { useBench, useShot } from '../workbench/context';
import { view } from '../workbench/state';
import { requestFor } from '../workbench/use-picture';

/** A frame of a source that cannot be read, and why. */
interface Damaged {
  source: string;
  name: string;
  frame: number;
  why: string;
}

/** Frames of the shot at which each source that a lane starts from has one of its own. */
function framesToRead(shot: Shot): { source: Source; looked: Shot; frame: number }[] {
  const used = shot.sources.filter((s) => isPicture(s) && shot.lanes.some((l) => 'source' in l.start && l.start.source === s.id));
  return used.flatMap((source) => {
    const span = source.kind === 'still' ? { first: shot.range.first, last: shot.range.first } : spanOf(source, shot.frameRate);
    const [first, last] = [Math.max(span.first, shot.range.first), Math.min(span.last, shot.range.last)];
    const looked = sourceShot(shot, source.id);
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => ({ source, looked, frame: first + i }));
  });
}

/** Reads every frame that the shot uses and lists those that are missing or damaged: a file's head says nothing of its pixels. */
export function ReadThrough() {
  const shot = useShot();
  const { viewer } = useBench();
  const job = useJob('read through');
  const [found, setFound] = useState<{ list: readonly Damaged[]; read: number } | null>(null);
  const read = async (): Promise<void> => {
    const all = framesToRead(shot);
    const running = startJob('read through', 'Reading every frame', 'frames', all.length);
    const list: Damaged[] = [];
    let done = 0;
    try {
      for (const { source, looked, frame } of all) {
        try {
          await viewer.fetch(looked, requestFor({ lane: looked.result! }, frame, 0.25), 'thumbnail', running.signal);
        } catch (e) {
          if (e instanceof Cancelled || running.signal.aborted) break;
          list.push({ source: source.id, name: source.name, frame, why: messageOf(e) });
        }
        running.tell(++done, all.length);
        setFound({ list: [...list], read: done });
      }
    } finally {
      running.end();
    }
  };
  const good = found && found.list.length === 0;
  return (
    <section aria-label="Files">
      <div className="check head">
        <span className="grow">
          <b>Files</b>{' '}
          {found
            ? good
              ? `All ${found.read} frames that were read are whole.`
              : `${found.list.length} of ${found.read} frames cannot be read.`
            : 'Whether each can be read is known once it has been.'}
        </span>
        {job ? (
          <JobRow job={job} />
        ) : (
          <Button variant="outlined" disabled={shot.lanes.length === 0} onClick={() => void read()}>
            {found ? 'Read again' : 'Read every frame'}
          </Button>
        )}
      </div>
      {found?.list.map((d) => (
        <div key={`${d.source} ${d.frame}`} className="check">
          <span className="grow">
            <b>{d.name}</b> frame {d.frame}: {d.why}
          </span>
          <button
            className="pill"
            onClick={() => view.set({ selection: { kind: 'source', id: d.source }, frame: d.frame, playing: false })}
          >
            Show me
          </button>
        </div>
      ))}
    </section>
  );
}
