'use client';
import LinearProgress from '@mui/material/LinearProgress';
import { create } from 'zustand';

interface Bringing {
  what: string;
  done: number;
  of: number;
}

/** Files that are on their way into the Library. Apart from it: a film has hundreds, and each that comes would draw all cards again. */
export const useBringing = create<{ now: Bringing | null }>(() => ({ now: null }));
export const setBringing = (now: Bringing | null): void => useBringing.setState({ now });

export function BringingIn() {
  const now = useBringing((s) => s.now);
  if (!now) return null;
  const { what, done, of } = now;
  return (
    <div style={{ marginBottom: 18 }} role="status">
      <div className="dust" style={{ marginBottom: 6 }}>
        {what}: {done} of {of} files
      </div>
      <LinearProgress variant="determinate" value={(100 * done) / of} />
    </div>
  );
}
