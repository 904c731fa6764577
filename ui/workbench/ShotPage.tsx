'use client';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useEffect, useState } from 'react';
import { parseShot } from '@/core/document/schema';
import { messageOf } from '@/core/errors';
import { Viewer } from '@/engine/browser/viewer';
import { WorkerPool } from '@/engine/browser/pool';
import { db } from '@/store/db';
import { loadSettings } from '@/store/settings';
import type { ShotSession } from '@/store/shot-store';
import { openShot } from '@/store/shot-store';
import { useKeymap } from '../search/keymap';
import { toast, toastError } from '../theme/toast';
import type { Bench } from './context';
import { BenchProvider } from './context';
import { view } from './state';
import { Workbench } from './Workbench';

/** Opens a shot for editing; where another tab has it, only for looking. */
export function ShotPage() {
  // Without a network every shot is opened by the same kept page: the address alone says which it is.
  const id = decodeURIComponent(usePathname().split('/').pop() ?? '');
  const [bench, setBench] = useState<Bench | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  useEffect(() => {
    let pool: WorkerPool | null = null;
    let live = true;
    let release = (): void => undefined;
    const leaving = new AbortController();
    const open = async (): Promise<void> => {
      const row = await db.shots.get(id);
      if (!row) throw new Error('There is no such shot in this browser. It may have been deleted.');
      const shot = parseShot(row.shot);
      const mine = await new Promise<boolean>((known) => {
        void navigator.locks.request(`ostracon shot ${id}`, { ifAvailable: true }, (lock) => {
          known(lock !== null);
          return lock ? new Promise<void>((done) => (release = done)) : undefined;
        });
      });
      if (!live) return release();
      const settings = await loadSettings();
      if (!live) return release();
      pool = new WorkerPool(settings.workers > 0 ? { size: settings.workers } : {});
      view.reset(Math.floor((shot.range.first + shot.range.last) / 2));
      view.set({ surround: settings.surround });
      useKeymap.setState({ chosen: settings.keys });
      const session = openShot(shot, !mine);
      setBench({ session, viewer: new Viewer(pool, settings.cacheMegabytes * 2 ** 20) });
      if (!mine) takeOver(session);
    };
    /** Waits until the other tab is closed, then edits what that one saved last. */
    const takeOver = (session: ShotSession): void => {
      const waiting = navigator.locks.request(`ostracon shot ${id}`, { signal: leaving.signal }, async () => {
        const row = await db.shots.get(id);
        if (!live || !row) return;
        session.store.setState({ shot: parseShot(row.shot), past: [], future: [], saved: 'saved', readOnly: false });
        toast('info', 'The other tab was closed: the shot can be edited here now.');
        await new Promise<void>((done) => (release = done));
      });
      waiting.catch((e: unknown) => {
        if (!leaving.signal.aborted) toastError(e);
      });
    };
    open().catch((e: unknown) => live && setProblem(messageOf(e)));
    return () => {
      live = false;
      leaving.abort();
      release();
      pool?.dispose();
      setBench(null);
    };
  }, [id]);

  useEffect(() => {
    if (!bench) return undefined;
    const leave = (): void => {
      if (bench.session.store.getState().saved !== 'saved') void bench.session.save();
    };
    document.addEventListener('visibilitychange', leave);
    window.addEventListener('pagehide', leave);
    return () => {
      leave();
      document.removeEventListener('visibilitychange', leave);
      window.removeEventListener('pagehide', leave);
    };
  }, [bench]);

  if (problem) {
    return (
      <div className="stage-message" style={{ height: '100vh' }}>
        <div className="error" role="alert">
          {problem}
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
