'use client';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useEffect, useState } from 'react';
import { messageOf } from '@/core/errors';
import { Viewer, WorkerPool } from '@/engine/browser';
import type { Opened } from '@/store';
import { Unreadable, loadSettings, openForEditing } from '@/store';
import { stopJobs } from '../jobs/jobs';
import { useKeymap } from '../search/keymap';
import { clearToasts, toast } from '../theme/toast';
import type { Bench } from './context';
import { BenchProvider } from './context';
import { RepairView } from './RepairView';
import { view } from './state';
import { Workbench } from './Workbench';

/** Opens a shot for editing; where another tab has it, only for looking; where it is damaged, for repair. */
export function ShotPage() {
  // Without a network every shot is opened by the same kept page: the address alone says which it is.
  const id = decodeURIComponent(usePathname().split('/').pop() ?? '');
  const [bench, setBench] = useState<Bench | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const [tries, setTries] = useState(0);

  useEffect(() => {
    let pool: WorkerPool | null = null;
    let opened: Opened | null = null;
    let live = true;
    const open = async (): Promise<void> => {
      const settings = await loadSettings();
      if (!live) return;
      // The workers start while the shot is read.
      pool = new WorkerPool(settings.workers > 0 ? { size: settings.workers } : {});
      pool.onTrouble = (message) => toast('error', message);
      const made = await openForEditing(
        id,
        () => toast('info', 'The other tab was closed: the shot can be edited here now.'),
        (e) => live && setProblem(e),
      );
      if (!live) return made.close();
      opened = made;
      if (made.newer)
        toast(
          'warning',
          `This shot can only be looked at: ${made.newer.slice(0, 3).join('; ')}${made.newer.length > 3 ? ` and ${made.newer.length - 3} more` : ''}.`,
        );
      const { shot } = made.session.store.getState();
      view.reset(Math.floor((shot.range.first + shot.range.last) / 2));
      view.set({ surround: settings.surround });
      useKeymap.setState({ chosen: settings.keys });
      setBench({ session: made.session, viewer: new Viewer(pool, settings.cacheMegabytes * 2 ** 20) });
    };
    setProblem(null);
    open().catch((e: unknown) => {
      // What cannot be opened has no use for them.
      pool?.dispose();
      if (live) setProblem(e);
    });
    return () => {
      live = false;
      stopJobs();
      clearToasts();
      void opened?.close();
      pool?.dispose();
      setBench(null);
    };
  }, [id, tries]);

  useEffect(() => {
    if (!bench) return undefined;
    const { session } = bench;
    const unsaved = (): boolean => session.store.getState().saved !== 'saved';
    const leave = (): void => {
      if (unsaved()) void session.save();
    };
    /** The browser asks before what could not be saved is left. */
    const ask = (e: BeforeUnloadEvent): void => {
      if (session.store.getState().saved === 'failed') e.preventDefault();
    };
    document.addEventListener('visibilitychange', leave);
    window.addEventListener('pagehide', leave);
    window.addEventListener('beforeunload', ask);
    return () => {
      document.removeEventListener('visibilitychange', leave);
      window.removeEventListener('pagehide', leave);
      window.removeEventListener('beforeunload', ask);
    };
  }, [bench]);

  if (problem instanceof Unreadable) {
    return <RepairView row={problem.row} problem={problem.message} onRepaired={() => setTries((n) => n + 1)} />;
  }
  if (problem) {
    return (
      <div className="stage-message" style={{ height: '100vh' }}>
        <div className="error" role="alert">
          {messageOf(problem)}
          <div>
            <Button component={Link} href="/" variant="outlined" sx={{ mt: 1 }}>
              To the Library
            </Button>
          </div>
        </div>
      </div>
    );
  }
  if (!bench) return null;
  return (
    <BenchProvider value={bench}>
      <Workbench />
    </BenchProvider>
  );
}
