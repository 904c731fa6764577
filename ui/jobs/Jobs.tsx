'use client';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Popover from '@mui/material/Popover';
import { useEffect, useState } from 'react';
import type { Job } from './jobs';
import { progressText, useJobs } from './jobs';

/** What is under way, in the top bar: a click lists it, each with a way to stop it. */
export function Jobs() {
  const list = useJobs((s) => s.list);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const running = list.length > 0;
  useEffect(() => {
    if (!running) return undefined;
    const ask = (e: BeforeUnloadEvent): void => e.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [running]);
  if (!running) return null;
  const share = list.reduce((sum, j) => sum + j.done / Math.max(1, j.of), 0) / list.length;
  return (
    <>
      <button className="pill on" aria-haspopup="dialog" aria-label="Work under way" onClick={(e) => setAnchor(e.currentTarget)}>
        {list.length === 1 ? list[0]!.title : `${list.length} jobs`} <b className="mono">{Math.floor(100 * share)} %</b>
      </button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'Work under way' } }}
      >
        <div className="jobs">
          {list.map((j) => (
            <JobRow key={j.id} job={j} />
          ))}
        </div>
      </Popover>
    </>
  );
}

/** A job that can be gone on with is paused, others are stopped. */
export function JobRow({ job, stop = 'Stop' }: { job: Job; stop?: 'Stop' | 'Pause' }) {
  return (
    <div className="job" role="status">
      <span className="grow">
        {job.title}
        <LinearProgress variant="determinate" value={(100 * job.done) / Math.max(1, job.of)} aria-label={`Progress: ${job.title}`} />
        <small className="mono dust">{progressText(job)}</small>
      </span>
      <Button onClick={job.stop}>{stop}</Button>
    </div>
  );
}
