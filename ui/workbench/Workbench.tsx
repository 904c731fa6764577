'use client';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import RedoIcon from '@mui/icons-material/Redo';
import UndoIcon from '@mui/icons-material/Undo';
import Tooltip from '@mui/material/Tooltip';
import IconButton from '@mui/material/IconButton';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { Cancelled } from '@/core/errors';
import * as commands from '@/store/commands';
import { bringIn } from '@/store/bring-in';
import { Controls } from '../controls/Controls';
import { Lanes } from '../lanes/Lanes';
import { Dialogs } from '../search/Dialogs';
import { ACTIONS, keyName } from '../search/actions';
import { Sources } from '../sources/Sources';
import { Stage } from '../stage/Stage';
import { toast, toastError } from '../theme/toast';
import { usePlayback } from '../timeline/ready';
import { Checks, Transport } from '../timeline/Transport';
import { useBench, useRun, useShot, useShotState } from './context';
import { DragArea } from './drag';
import { filesOfDrop } from './drop';
import { useView, view } from './state';
import { useLibraryThumbnail } from './use-library-thumbnail';

/** The page of one shot. */
export function Workbench() {
  usePlayback();
  useKeys();
  useLibraryThumbnail();
  useFrameInRange();
  const bring = useBringIn();
  const tab = useView((s) => s.tab);
  const rows = useDefaultLayout({ id: 'workbench-rows', storage: localStorage });
  const columns = useDefaultLayout({ id: 'workbench-columns', storage: localStorage });
  return (
    <DragArea>
      <div
        className="workbench"
        onDragOver={(e) => {
          if (e.dataTransfer.types.includes('Files')) e.preventDefault();
        }}
        onDrop={(e) => {
          if (!e.dataTransfer.types.includes('Files')) return;
          e.preventDefault();
          void filesOfDrop(e.dataTransfer).then(bring.start, toastError);
        }}
      >
        <TopBar />
        <div className="panels">
          <Group orientation="vertical" {...rows}>
            <Panel id="panel-middle" minSize={240}>
              <Group orientation="horizontal" {...columns}>
                <Panel id="panel-sources" defaultSize={212} minSize={150} maxSize={420} collapsible>
                  <Sources />
                </Panel>
                <Separator className="handle" style={{ width: 1 }} />
                <Panel id="panel-stage" minSize={320}>
                  <Stage />
                </Panel>
                <Separator className="handle" style={{ width: 1 }} />
                <Panel id="panel-controls" defaultSize={304} minSize={240} maxSize={520} collapsible>
                  <Controls />
                </Panel>
              </Group>
            </Panel>
            <Separator className="handle" style={{ height: 1 }} />
            <Panel id="panel-bottom" defaultSize={272} minSize={90} maxSize={700}>
              <div className="bottom">
                <Transport />
                {tab === 'lanes' ? <Lanes /> : <Checks />}
              </div>
            </Panel>
          </Group>
        </div>
        <input
          id="choose-files"
          type="file"
          multiple
          hidden
          accept=".png,.jpg,.jpeg,.webp,.exr,.dpx,.hdr"
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            e.target.value = '';
            void bring.start(files);
          }}
        />
        {bring.progress && (
          <div className="toasts">
            <div className="toast" role="status">
              <span>
                Bringing in {bring.progress.done} of {bring.progress.of} files
                <LinearProgress variant="determinate" value={(100 * bring.progress.done) / Math.max(1, bring.progress.of)} />
              </span>
              <Button onClick={bring.stop}>Stop</Button>
            </div>
          </div>
        )}
        <Dialogs />
      </div>
    </DragArea>
  );
}

function TopBar() {
  const shot = useShot();
  const { session } = useBench();
  const { saved, problem, readOnly, past, future } = useShotState((s) => s);
  return (
    <header className="bar top">
      <Tooltip title="Library">
        <Link href="/" aria-label="Library" className="mark" onClick={() => void session.save()} />
      </Tooltip>
      <h1>{shot.name}</h1>
      <button className="pill mono" onClick={() => view.set({ dialog: 'format' })} aria-label="Format and range">
        {shot.format.width}×{shot.format.height} · {shot.frameRate} fps · {shot.range.first}–{shot.range.last}
      </button>
      <span className="sep" />
      <span className="dust" data-testid="saved" role="status" style={problem ? { color: 'var(--red)' } : undefined} title={problem ?? ''}>
        {readOnly ? 'Read only: open in another tab' : problem ? 'Not saved: read why' : saved === 'saved' ? 'Saved' : 'Saving'}
      </span>
      <span className="grow" />
      <button className="searchbox" onClick={() => view.set({ dialog: 'search' })}>
        <span>Search steps, lanes, actions</span>
        <kbd>Ctrl K</kbd>
      </button>
      <Tooltip title={past.length ? `Undo: ${past[past.length - 1]!.label} (Ctrl+Z)` : 'Nothing to undo'}>
        <span>
          <IconButton aria-label="Undo" disabled={past.length === 0} onClick={() => session.undo()}>
            <UndoIcon fontSize="small" />
          </IconButton>
        </span>
      </Tooltip>
      <Tooltip title={future.length ? `Redo: ${future[0]!.label} (Ctrl+Shift+Z)` : 'Nothing to redo'}>
        <span>
          <IconButton aria-label="Redo" disabled={future.length === 0} onClick={() => session.redo()}>
            <RedoIcon fontSize="small" />
          </IconButton>
        </span>
      </Tooltip>
      <Button variant="contained" color="secondary" onClick={() => view.set({ dialog: 'export' })}>
        Export
      </Button>
    </header>
  );
}

function useBringIn() {
  const { viewer } = useBench();
  const run = useRun();
  const [progress, setProgress] = useState<{ done: number; of: number } | null>(null);
  const controller = useRef<AbortController | null>(null);
  const start = async (files: readonly File[]): Promise<void> => {
    if (files.length === 0) return;
    controller.current = new AbortController();
    setProgress({ done: 0, of: files.length });
    try {
      const found = await bringIn(files, viewer.pool, (done, of) => setProgress({ done, of }), controller.current.signal);
      if (found.sources.length) {
        run(found.sources.length === 1 ? `Bring in ${found.sources[0]!.name}` : `Bring in ${found.sources.length} sources`, (s) => {
          for (const source of found.sources) commands.addSource(source)(s);
        });
      }
      found.warnings.forEach((w) => toast('warning', w));
      found.errors.slice(0, 3).forEach((e) => toast('error', e));
      if (found.errors.length > 3) toast('error', `${found.errors.length - 3} more files could not be read.`);
    } catch (e) {
      if (!(e instanceof Cancelled) && !controller.current.signal.aborted) toastError(e);
    } finally {
      setProgress(null);
    }
  };
  return { start, stop: () => controller.current?.abort(), progress };
}

/** The frame that is seen stays inside the shot's range when that changes. */
function useFrameInRange(): void {
  const { first, last } = useShot().range;
  const frame = useView((s) => s.frame);
  useEffect(() => {
    if (frame < first || frame > last) view.set({ frame: Math.min(last, Math.max(first, frame)) });
  }, [first, last, frame]);
}

/** Keys work everywhere but in fields; Space pans while it is held and plays when it is only pressed. */
function useKeys(): void {
  const { session } = useBench();
  useEffect(() => {
    /** Keys that the focused element wants for itself. Sliders and switches keep their own keys only. */
    const taken = (e: KeyboardEvent): boolean => {
      const t = e.target;
      if (!(t instanceof HTMLElement)) return false;
      if (t.matches('input[type="range"]')) return /^(Arrow|Home|End|Page)/.test(e.key);
      if (t.matches('input[type="checkbox"]')) return e.key === ' ';
      return t.matches('input, textarea, [role="combobox"], [role="menuitem"], [role="option"]') || t.isContentEditable;
    };
    const down = (e: KeyboardEvent): void => {
      const { dialog, picking, full } = view.get();
      if (e.key === 'Escape') {
        if (picking) view.set({ picking: null });
        else if (full && !dialog) view.set({ full: false });
        return;
      }
      const name = keyName(e);
      if (dialog || (taken(e) && name !== 'Ctrl+K')) return;
      if (name === 'Space') {
        e.preventDefault();
        document.body.dataset.space = 'down';
        return;
      }
      const action = ACTIONS.find((a) => a.keys.includes(name));
      if (!action) return;
      e.preventDefault();
      action.run(session);
    };
    const up = (e: KeyboardEvent): void => {
      if (e.key !== ' ' || document.body.dataset.space !== 'down') return;
      delete document.body.dataset.space;
      const panned = document.body.dataset.panned;
      delete document.body.dataset.panned;
      if (!panned) view.set({ playing: !view.get().playing });
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, [session]);
}
