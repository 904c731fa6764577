'use client';
import Button from '@mui/material/Button';
import Tooltip from '@mui/material/Tooltip';
import IconButton from '@mui/material/IconButton';
import Link from 'next/link';
import { useEffect } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { useShallow } from 'zustand/react/shallow';
import { RedoIcon, UndoIcon } from '@/ui/theme/icons';
import { Checks } from '../checks/Checks';
import { Controls } from '../controls/Controls';
import { Curves } from '../curves/Curves';
import { Jobs } from '../jobs/Jobs';
import { Lanes } from '../lanes/Lanes';
import { Notes } from '../notes/Notes';
import { Scopes } from '../scopes/Scopes';
import { Meter } from '../seating/Meter';
import { Dialogs } from '../search/Dialogs';
import { LeftDock } from '../readings/LeftDock';
import { ReadingCharts } from '../readings/ReadingCharts';
import { Stage } from '../stage/Stage';
import { toastError } from '../theme/toast';
import { usePlayback } from '../timeline/ready';
import { Transport } from '../timeline/Transport';
import { bringInFiles } from './bring-in';
import { useBench, useShotPart, useShotState } from './context';
import { DragArea } from './drag';
import { Guarded } from './Guarded';
import { filesOfDrop, filesOfField } from './drop';
import { Messages } from './Messages';
import { useView, view } from './state';
import { useKeys } from './use-keys';
import { useLibraryThumbnail, useVersionsByItself } from './use-library-thumbnail';

/** The page of one shot. */
export function Workbench() {
  const bench = useBench();
  const rows = useDefaultLayout({ id: 'workbench-rows', storage: localStorage });
  const columns = useDefaultLayout({ id: 'workbench-columns', storage: localStorage });
  return (
    <DragArea>
      <Background />
      <div
        className="workbench"
        onDragOver={(e) => {
          if (e.dataTransfer.types.includes('Files')) e.preventDefault();
        }}
        onDrop={(e) => {
          if (!e.dataTransfer.types.includes('Files')) return;
          e.preventDefault();
          void filesOfDrop(e.dataTransfer).then((files) => bringInFiles(files, bench), toastError);
        }}
      >
        <TopBar />
        <div className="panels">
          <Group orientation="vertical" {...rows}>
            <Panel id="panel-middle" minSize={240}>
              <Group orientation="horizontal" {...columns}>
                <Panel id="panel-sources" defaultSize={228} minSize={150} maxSize={420} collapsible>
                  <Guarded what="This list">
                    <LeftDock />
                  </Guarded>
                </Panel>
                <Separator className="handle" style={{ width: 1 }} />
                <Panel id="panel-stage" minSize={320}>
                  <Guarded what="The stage">
                    <Stage />
                  </Guarded>
                </Panel>
                <Separator className="handle" style={{ width: 1 }} />
                <Panel id="panel-controls" defaultSize={304} minSize={240} maxSize={520} collapsible>
                  <GuardedControls />
                </Panel>
              </Group>
            </Panel>
            <Separator className="handle" style={{ height: 1 }} />
            <Panel id="panel-bottom" defaultSize={272} minSize={90} maxSize={700}>
              <div className="bottom">
                <Guarded what="The transport">
                  <Transport />
                </Guarded>
                <Tab />
              </div>
            </Panel>
          </Group>
        </div>
        {(['choose-files', 'choose-folder'] as const).map((id) => (
          <input
            key={id}
            id={id}
            type="file"
            multiple
            hidden
            {...(id === 'choose-folder'
              ? { webkitdirectory: '' }
              : { accept: '.png,.jpg,.jpeg,.webp,.tif,.tiff,.exr,.dpx,.hdr,.mp4,.m4v,.mov,.webm,.mkv,.cube' })}
            onChange={(e) => {
              const files = filesOfField(e.target);
              e.target.value = '';
              void bringInFiles(files, bench);
            }}
          />
        ))}
        <Guarded what="This dialog">
          <Dialogs />
        </Guarded>
      </div>
    </DragArea>
  );
}

/** What goes on without being drawn: apart, so that a frame that passes does not draw the page again. */
function Background() {
  usePlayback();
  useKeys();
  useLibraryThumbnail();
  useVersionsByItself();
  useFrameInRange();
  return null;
}

const TABS = { lanes: Lanes, curves: Curves, scopes: Scopes, meter: Meter, checks: Checks, readings: ReadingCharts, notes: Notes };

/** What stands below the stage. */
function Tab() {
  const tab = useView((s) => s.tab);
  const Shown = TABS[tab];
  return (
    <Guarded key={tab} what="This tab">
      <Shown />
    </Guarded>
  );
}

/** Controls of something else are a new start. */
function GuardedControls() {
  const id = useView((s) => s.selection?.id);
  return (
    <Guarded key={id ?? ''} what="These controls">
      <Controls />
    </Guarded>
  );
}

/** Each part is drawn again for what it shows alone. */
function TopBar() {
  return (
    <header className="bar top">
      <LibraryLink />
      <ShotName />
      <span className="sep" />
      <Saved />
      <span className="grow" />
      <button className="searchbox" onClick={() => view.set({ dialog: 'search' })}>
        <span>Search steps, lanes, actions</span>
        <kbd>Ctrl K</kbd>
      </button>
      <Jobs />
      <Messages />
      <Button onClick={() => view.set({ dialog: 'versions' })}>Versions</Button>
      <UndoButton />
      <RedoButton />
      <Button variant="contained" color="secondary" onClick={() => view.set({ dialog: 'export' })}>
        Export
      </Button>
    </header>
  );
}

function LibraryLink() {
  const { session } = useBench();
  return (
    <Tooltip title="Library">
      <Link
        href="/"
        aria-label="Library"
        className="mark"
        onClick={(e) => {
          // What could not be saved is not left without a question.
          if (session.store.getState().saved !== 'failed') return;
          e.preventDefault();
          view.set({ dialog: 'unsaved' });
        }}
      />
    </Tooltip>
  );
}

function ShotName() {
  const name = useShotPart('name');
  const format = useShotPart('format');
  const fps = useShotPart('frameRate');
  const range = useShotPart('range');
  return (
    <>
      <h1>{name}</h1>
      <button className="pill mono" onClick={() => view.set({ dialog: 'format' })} aria-label="Format and range">
        {format.width}×{format.height} · {fps} fps · {range.first}–{range.last}
      </button>
    </>
  );
}

function Saved() {
  const { saved, problem, readOnly } = useShotState(useShallow(({ saved, problem, readOnly }) => ({ saved, problem, readOnly })));
  return (
    <span className="dust" data-testid="saved" role="status" style={problem ? { color: 'var(--red)' } : undefined} title={problem ?? ''}>
      {readOnly ? `Read only: ${readOnly}` : problem ? 'Not saved' : saved === 'saved' ? 'Saved' : 'Saving'}
    </span>
  );
}

function UndoButton() {
  const { session } = useBench();
  const last = useShotState((s) => s.past.at(-1)?.label);
  return <TravelButton name="Undo" label={last} keys="Ctrl+Z" icon={UndoIcon} onClick={() => session.undo()} />;
}

function RedoButton() {
  const { session } = useBench();
  const next = useShotState((s) => s.future[0]?.label);
  return <TravelButton name="Redo" label={next} keys="Ctrl+Shift+Z" icon={RedoIcon} onClick={() => session.redo()} />;
}

interface TravelProps {
  name: string;
  /** What would be taken back or done again, if anything. */
  label: string | undefined;
  keys: string;
  icon: typeof UndoIcon;
  onClick(): void;
}

function TravelButton({ name, label, keys, icon: Icon, onClick }: TravelProps) {
  return (
    <Tooltip title={label === undefined ? `Nothing to ${name.toLowerCase()}` : `${name}: ${label} (${keys})`}>
      <span>
        <IconButton aria-label={name} disabled={label === undefined} onClick={onClick}>
          <Icon fontSize="small" />
        </IconButton>
      </span>
    </Tooltip>
  );
}

/** The frame that is seen stays inside the shot's range when that changes. */
function useFrameInRange(): void {
  const { first, last } = useShotPart('range');
  const frame = useView((s) => s.frame);
  useEffect(() => {
    if (frame < first || frame > last) view.set({ frame: Math.min(last, Math.max(first, frame)) });
  }, [first, last, frame]);
}
