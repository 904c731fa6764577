'use client';
import { useDraggable } from '@dnd-kit/core';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useEffect, useRef, useState } from 'react';
import type { Source } from '@/core/document';
import { SAID, attributeOf, filesOf, isPicture, spanOf } from '@/core/document';
import { layersOf } from '@/core/picture';
import type { Access } from '@/engine/browser';
import { askAccess, mediaDb } from '@/engine/browser';
import { accessOfSource } from '@/store';
import { commands } from '@/core/commands';
import { LinkIcon, LinkOffIcon, MoreVertIcon } from '@/ui/theme/icons';
import { Renamable } from '../lanes/Renamable';
import { useJob } from '../jobs/jobs';
import { toastError } from '../theme/toast';
import { bringInFiles, relinkMedia, replaceMedia, drawAnew } from '../workbench/bring-in';
import { useBench, useRun, useShotPart } from '../workbench/context';
import type { Dragged } from '../workbench/drag';
import { canLink, chooseToLink, filesOfField } from '../workbench/drop';
import { RowMenu } from '../workbench/RowMenu';
import { useView, view } from '../workbench/state';
import { DockTabs } from '../readings/DockTabs';
import { LayerGrid } from './LayerGrid';
import { SourceSettings } from './SourceSettings';
import { SourceThumbnail } from './SourceThumbnail';
import { StorageMeter } from './StorageMeter';

/** What was brought in: thumbnails, facts, and how the pixels are understood. */
export function Sources() {
  const sources = useShotPart('sources');
  const selection = useView((s) => s.selection);
  const bench = useBench();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const choose = (id: string) => () => {
    setMenu(null);
    document.getElementById(id)?.click();
  };
  const link = (what: 'files' | 'folder') => () => {
    setMenu(null);
    chooseToLink(what)
      .then((files) => files && bringInFiles(files, bench, true))
      .catch(toastError);
  };
  return (
    <div className="dock" role="region" aria-label="Sources">
      <div className="bar" style={{ height: 32, flex: 'none' }}>
        <DockTabs />
        <span className="grow" />
        <Button aria-haspopup="menu" onClick={(e) => setMenu(e.currentTarget)}>
          Bring in
        </Button>
        <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
          <MenuItem onClick={choose('choose-files')}>Files, copied into this browser</MenuItem>
          <MenuItem onClick={choose('choose-folder')}>A folder, copied into this browser</MenuItem>
          {canLink() && <MenuItem onClick={link('files')}>Link files where they are</MenuItem>}
          {canLink() && <MenuItem onClick={link('folder')}>Link a folder where it is</MenuItem>}
        </Menu>
      </div>
      <div className="scroll">
        {sources.map((s) => (
          <SourceRow key={s.id} source={s} selected={selection?.kind === 'source' && selection.id === s.id} />
        ))}
        <div className="dropzone">Drop files or a folder</div>
      </div>
      <StorageMeter before={() => bench.session.save()} />
    </div>
  );
}

function facts(s: Source, frameRate: number): string {
  const layers = layersOf(s.channels).length;
  if (s.kind === 'lut') return `colour table · ${attributeOf(s, SAID.table) ?? ''}`;
  if (s.kind === 'model') return `model · ${attributeOf(s, SAID.model) ?? ''}`;
  const { first, last } = spanOf(s, frameRate);
  const when = s.kind === 'still' ? 'still' : `${first}–${last}`;
  return [s.container, when, layers > 1 ? `${layers} layers` : s.colourSpace].join(' · ');
}

/** Whether a source's files can be had; looked up again when the source or what is brought in changes. */
function useAccess(source: Source): { access: Access; missing: string[]; look(): void } {
  const [state, setState] = useState<{ access: Access; missing: string[] }>({ access: 'here', missing: [] });
  const busy = useJob('bring in') !== undefined;
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    let live = true;
    accessOfSource(source).then((a) => live && setState(a), toastError);
    return () => {
      live = false;
    };
  }, [source, busy, turn]);
  return { ...state, look: () => setTurn((t) => t + 1) };
}

function SourceRow({ source, selected }: { source: Source; selected: boolean }) {
  const run = useRun();
  const bench = useBench();
  const frameRate = useShotPart('frameRate');
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [renaming, setRenaming] = useState(false);
  const [grid, setGrid] = useState(false);
  const files = useRef<HTMLInputElement>(null);
  const purpose = useRef<typeof relinkMedia>(relinkMedia);
  const { access, missing, look } = useAccess(source);
  const drag = useDraggable({ id: `source ${source.id}`, data: { kind: 'source', id: source.id, label: source.name } satisfies Dragged });
  const act = (label: string, change: commands.Change) => () => void run(label, change);
  const choose = (use: typeof relinkMedia): void => {
    purpose.current = use;
    files.current?.click();
  };
  const allow = async (): Promise<void> => {
    for (const f of filesOf(source)) {
      const row = await mediaDb.media.get(f.hash);
      if (row && !(await askAccess(row))) break;
    }
    look();
    drawAnew(bench);
  };
  return (
    <>
      <div
        className={`source${selected ? ' selected' : ''}`}
        data-testid={`source ${source.name}`}
        ref={drag.setNodeRef}
        {...drag.listeners}
        onClick={() => view.set({ selection: { kind: 'source', id: source.id } })}
      >
        {!isPicture(source) ? (
          <div className={`blank ${source.kind}mark`} aria-hidden />
        ) : (
          <SourceThumbnail source={source} access={access} />
        )}
        <div className="grow">
          <b className="ellipsis" style={{ display: 'block' }}>
            <Renamable
              name={source.name}
              editing={renaming}
              onEdit={setRenaming}
              onName={(name) => run('Rename source', commands.changeSource(source.id, { name }))}
            />
          </b>
          <small className="ellipsis">{facts(source, frameRate)}</small>
        </div>
        <IconButton
          aria-label={`Menu of source ${source.name}`}
          onPointerDown={(e) => e.stopPropagation()}
          onClick={(e) => setMenu(e.currentTarget)}
        >
          <MoreVertIcon sx={{ fontSize: 14 }} />
        </IconButton>
        <RowMenu
          anchor={menu}
          onClose={() => setMenu(null)}
          entries={[
            ...(!isPicture(source) ? [] : ([['Add as a lane', act('Add lane', commands.addLane(source.id))]] as const)),
            ['Rename', () => setRenaming(true)],
            ['Replace with another version', () => choose(replaceMedia)],
            ['Find missing files', () => choose(relinkMedia)],
            ['Remove', act('Remove source', commands.removeSource(source.id))],
          ]}
        />
        <input
          ref={files}
          type="file"
          multiple
          hidden
          aria-label={`Files for ${source.name}`}
          onClick={(e) => e.stopPropagation()}
          onChange={(e) => {
            const given = filesOfField(e.target);
            e.target.value = '';
            void purpose.current(source, given, bench);
          }}
        />
      </div>
      {access === 'gone' && (
        <div className="source-note error" role="alert">
          <LinkOffIcon sx={{ fontSize: 14 }} />
          <span className="grow" title={missing.join(', ')}>
            {missing.length} of {filesOf(source).length} files are missing
          </span>
          <Button onClick={() => choose(relinkMedia)}>Find</Button>
        </div>
      )}
      {access === 'asks' && (
        <div className="source-note">
          <LinkIcon sx={{ fontSize: 14 }} />
          <span className="grow">Linked: the browser asks before it reads</span>
          <Button onClick={() => void allow().catch(toastError)}>Allow</Button>
        </div>
      )}
      {selected && <SourceSettings source={source} onLayers={() => setGrid(true)} />}
      {grid && <LayerGrid source={source} onClose={() => setGrid(false)} />}
    </>
  );
}
