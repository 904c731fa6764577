'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useRef, useState } from 'react';
import { messageOf } from '@/core/errors';
import type { Reading } from '@/core/readings';
import { formatReadings, formatTable, isTrack, overallConfidence, parseReadings } from '@/core/readings';
import { addReadings, changeReading, removeReading } from '@/core/commands';
import { Renamable } from '../lanes/Renamable';
import { CameraIn } from '../space/CameraIn';
import { Thumbnail } from '../stage/Thumbnail';
import { saveBlob } from '../theme/save-blob';
import { toast } from '../theme/toast';
import { tapName, useBench, useRun, useShot, useShotPart } from '../workbench/context';
import { MenuButton } from '../workbench/RowMenu';
import { useView, view } from '../workbench/state';
import { DockTabs } from './DockTabs';
import { NEW_READINGS, viewOf } from './kinds';
import { useMeasuring, withLive } from './measuring';

/** What was measured: where, over which frames, and how sure it is. */
export function Readings() {
  const readings = useShotPart('readings');
  const selection = useView((s) => s.selection);
  const run = useRun();
  const bench = useBench();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const file = useRef<HTMLInputElement>(null);
  return (
    <div className="dock" role="region" aria-label="Readings">
      <div className="bar" style={{ height: 32, flex: 'none' }}>
        <DockTabs />
        <span className="grow" />
        <Button aria-haspopup="menu" onClick={(e) => setMenu(e.currentTarget)}>
          New
        </Button>
        <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
          {NEW_READINGS.map(({ title, begin }) => (
            <MenuItem
              key={title}
              onClick={() => {
                setMenu(null);
                begin(bench);
              }}
            >
              {title}
            </MenuItem>
          ))}
          <MenuItem
            onClick={() => {
              setMenu(null);
              file.current?.click();
            }}
          >
            From a file (CSV, JSON; a camera from glTF or USD)
          </MenuItem>
        </Menu>
      </div>
      <div className="scroll">
        {readings.map((r) => (
          <ReadingRow key={r.id} reading={r} selected={selection?.kind === 'reading' && selection.id === r.id} />
        ))}
        {readings.length === 0 && (
          <div className="empty" style={{ margin: 12 }}>
            Nothing is measured yet. New ▸ A point, then click a contrasty detail on the stage.
          </div>
        )}
      </div>
      <CameraIn />
      <input
        ref={file}
        type="file"
        accept=".csv,.json,.glb,.gltf,.usda"
        hidden
        aria-label="Readings from a file"
        onChange={(e) => {
          const given = e.target.files?.[0];
          e.target.value = '';
          if (!given) return;
          if (/\.(glb|gltf|usda|usd|usdc|usdz)$/i.test(given.name)) return view.set({ incoming: given });
          given
            .text()
            .then((content) => run('Bring in readings', addReadings(parseReadings(content, given.name))))
            .catch((problem: unknown) => toast('error', messageOf(problem)));
        }}
      />
    </div>
  );
}

function ReadingRow({ reading: stored, selected }: { reading: Reading; selected: boolean }) {
  const run = useRun();
  const shot = useShot();
  const live = useMeasuring((s) => (s.reading === stored.id ? s.results : null));
  const reading = live ? withLive(stored, live) : stored;
  const [renaming, setRenaming] = useState(false);
  const sure = overallConfidence(reading);
  const flagged = reading.frames.filter((f) => f.flag).length;
  const save = (ending: string, content: () => string) => () =>
    saveBlob(new Blob([content()], { type: 'text/plain' }), `${reading.name}.${ending}`);
  return (
    <div
      className={`source${selected ? ' selected' : ''}`}
      data-testid={`reading ${reading.name}`}
      // It is drawn over the picture that it is measured in: that is shown.
      onClick={() => view.set({ selection: { kind: 'reading', id: reading.id }, seen: { ...reading.from }, layer: '' })}
    >
      <Thumbnail tap={reading.from} width={58} height={33} at={reading.reference} />
      <div className="grow">
        <b className="ellipsis" style={{ display: 'block' }}>
          <Renamable
            name={reading.name}
            editing={renaming}
            onEdit={setRenaming}
            onName={(name) => run('Rename reading', changeReading(reading.id, { name }))}
          />
        </b>
        <small className="ellipsis" style={{ display: 'block' }} title={`Measured in ${tapName(shot, reading.from)}`}>
          {reading.kind} · {tapName(shot, reading.from)}
        </small>
        <small className="ellipsis" style={{ display: 'block' }}>
          {viewOf(reading).line(reading)}
        </small>
        {sure !== null && isTrack(reading) && (
          <small className={`ellipsis${sure < 0.6 || flagged ? ' warn-text' : ''}`} style={{ display: 'block' }}>
            confidence {Math.round(100 * sure)} %{flagged > 0 && ` · ${flagged} flagged`}
          </small>
        )}
      </div>
      <MenuButton
        label={`Menu of reading ${reading.name}`}
        entries={[
          ['Rename', () => setRenaming(true)],
          ['Save as CSV', save('csv', () => formatTable(reading))],
          ['Save as JSON', save('json', () => formatReadings([reading]))],
          ['Delete', () => void run('Delete reading', removeReading(reading.id))],
        ]}
      />
    </div>
  );
}
