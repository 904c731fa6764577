'use client';
import { useDraggable } from '@dnd-kit/core';
import MoreVertIcon from '@mui/icons-material/MoreVert';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useState } from 'react';
import { SPACES, SPACE_NAMES } from '@/core/colour/spaces';
import type { AlphaKind, ColourSpace, Missing, Source } from '@/core/document/types';
import { layersOf, splitChannel } from '@/core/picture';
import * as commands from '@/store/commands';
import { lastFrameOf } from '@/store/make';
import { NumberField } from '../controls/NumberField';
import { Renamable } from '../lanes/Renamable';
import type { Dragged } from '../workbench/drag';
import { useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { SourceThumbnail } from './SourceThumbnail';

/** What was brought in: thumbnails, facts, and how the pixels are understood. */
export function Sources() {
  const shot = useShot();
  const selection = useView((s) => s.selection);
  return (
    <div className="dock" role="region" aria-label="Sources">
      <div className="bar" style={{ height: 32, flex: 'none' }}>
        <b style={{ fontWeight: 500 }}>Sources</b>
        <span className="grow" />
        <Button onClick={() => document.getElementById('choose-files')?.click()}>Bring in</Button>
      </div>
      <div className="scroll">
        {shot.sources.map((s) => (
          <SourceRow key={s.id} source={s} selected={selection?.kind === 'source' && selection.id === s.id} />
        ))}
        <div className="dropzone">Drop files or a folder</div>
      </div>
    </div>
  );
}

const facts = (s: Source): string => {
  const layers = layersOf(s.channels).length;
  const parts = [
    s.container,
    s.kind === 'still' ? 'still' : `${s.start}–${lastFrameOf(s)}`,
    layers > 1 ? `${layers} layers` : s.colourSpace,
  ];
  return parts.join(' · ');
};

function SourceRow({ source, selected }: { source: Source; selected: boolean }) {
  const run = useRun();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [renaming, setRenaming] = useState(false);
  const drag = useDraggable({ id: `source ${source.id}`, data: { kind: 'source', id: source.id, label: source.name } satisfies Dragged });
  const act = (label: string, change: commands.Change) => () => {
    setMenu(null);
    run(label, change);
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
        <SourceThumbnail source={source} />
        <div className="grow">
          <b className="ellipsis" style={{ display: 'block' }}>
            <Renamable
              name={source.name}
              editing={renaming}
              onEdit={setRenaming}
              onName={(name) => run('Rename source', commands.changeSource(source.id, { name }))}
            />
          </b>
          <small className="ellipsis">{facts(source)}</small>
        </div>
        <IconButton
          aria-label={`Menu of source ${source.name}`}
          onPointerDown={(e) => e.stopPropagation()}
          onClick={(e) => setMenu(e.currentTarget)}
        >
          <MoreVertIcon sx={{ fontSize: 14 }} />
        </IconButton>
        <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)} onClick={(e) => e.stopPropagation()}>
          <MenuItem onClick={act('Add lane', commands.addLane(source.id))}>Add as a lane</MenuItem>
          <MenuItem
            onClick={() => {
              setMenu(null);
              setRenaming(true);
            }}
          >
            Rename
          </MenuItem>
          <MenuItem onClick={act('Remove source', commands.removeSource(source.id))}>Remove</MenuItem>
        </Menu>
      </div>
      {selected && <SourceSettings source={source} />}
    </>
  );
}

/** "R G B A · diffuse: R G B · Z" */
const layersText = (channels: readonly string[]): string =>
  layersOf(channels)
    .map((layer) => {
      const own = channels.filter((c) => splitChannel(c).layer === layer).map((c) => splitChannel(c).channel);
      return layer ? `${layer}: ${own.join(' ')}` : own.join(' ');
    })
    .join(' · ');

function SourceSettings({ source }: { source: Source }) {
  const run = useRun();
  const set = (change: Parameters<typeof commands.changeSource>[1]): void =>
    void run('Change source', commands.changeSource(source.id, change));
  const choice = <T extends string>(label: string, value: T, options: readonly [T, string][], onChange: (v: T) => void) => (
    <>
      <label>{label}</label>
      <Select size="small" value={value} inputProps={{ 'aria-label': label }} onChange={(e) => onChange(e.target.value as T)}>
        {options.map(([v, text]) => (
          <MenuItem key={v} value={v}>
            {text}
          </MenuItem>
        ))}
      </Select>
    </>
  );
  return (
    <div className="source-settings">
      <label>Size</label>
      <span className="mono">
        {source.format.width}×{source.format.height} · {source.container}
      </span>
      <label>Channels</label>
      <span className="dust">{layersText(source.channels)}</span>
      {choice<ColourSpace>(
        'Colour',
        source.colourSpace,
        SPACE_NAMES.map((s) => [s, SPACES[s].title]),
        (colourSpace) => set({ colourSpace }),
      )}
      {source.colourReason && (
        <>
          <span />
          <small className="dust">A guess: {source.colourReason}.</small>
        </>
      )}
      {choice<AlphaKind>(
        'Alpha',
        source.alpha,
        [
          ['premultiplied', 'Premultiplied'],
          ['straight', 'Straight'],
          ['ignore', 'Ignored: solid'],
          ['luma', 'From luma: an element on black'],
        ],
        (alpha) => set({ alpha }),
      )}
      {source.kind === 'sequence' &&
        choice<Missing>(
          'Missing',
          source.missing,
          [
            ['error', 'Say so'],
            ['hold', 'Hold the one before'],
            ['black', 'Black'],
          ],
          (missing) => set({ missing }),
        )}
      {source.kind === 'sequence' && (
        <>
          <label>Starts at</label>
          <NumberField label="Starts at" value={source.start} whole step={1} onChange={(start) => set({ start })} />
        </>
      )}
    </div>
  );
}
