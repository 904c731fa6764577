'use client';
import { useDroppable } from '@dnd-kit/core';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import ListSubheader from '@mui/material/ListSubheader';
import Tooltip from '@mui/material/Tooltip';
import { useState } from 'react';
import type { Tap } from '@/core/document';
import { findStep, lanesBehind } from '@/core/document';
import { commands } from '@/core/commands';
import type { Target } from '../workbench/drag';
import { tapName, useBench, useShotState } from '../workbench/context';
import type { MatteDrawing } from '../shapes/draw-matte';
import { drawMatte } from '../shapes/draw-matte';
import { Thumbnail } from '../stage/Thumbnail';

interface Props {
  title: string;
  help: string;
  step: string;
  /** A feed's name, to be dropped on; none for the mask. */
  feed?: string;
  tap: Tap | undefined;
  /** What it gets where nothing is connected: found by itself. */
  found?: Tap | null;
  matte: boolean;
  /** Of a matte: it can be drawn on this picture, and is connected by that. */
  draw?: MatteDrawing;
  onTap(tap: Tap | null): void;
}

/** A side input: shows what it gets; choose a lane or a point of one, or drop a lane, chip or source on it. */
export function FeedField({ title, help, step, feed, tap, found, matte, draw, onTap }: Props) {
  const seen = tap ?? found ?? undefined;
  const { session } = useBench();
  const name = useShotState(({ shot }) => (tap ? tapName(shot, tap) : found ? `found: ${tapName(shot, found)}` : 'none'));
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const drop = useDroppable({
    id: `feed ${step} ${feed ?? 'mask'}`,
    data: { kind: 'feed', step, feed: feed ?? null } satisfies Target,
  });
  /** What would feed the step with itself is not offered. */
  const refused = (t: Tap): boolean => {
    const { shot } = session.store.getState();
    const own = findStep(shot, step)?.lane.id;
    // Only a lane that this one is behind of can make a ring: the others need no closer look.
    if (!own || !lanesBehind(shot, t.lane).has(own)) return false;
    const change = feed ? commands.setFeed(step, feed, t) : commands.setMask(step, { ...t, channel: 'A', invert: false });
    return session.refusal(change) !== null;
  };
  const item = (key: string, t: Tap, text: string, selected: boolean) => (
    <MenuItem key={key} selected={selected} disabled={!selected && refused(t)} onClick={() => choose(t)}>
      {text}
    </MenuItem>
  );
  const choose = (t: Tap | null): void => {
    setAnchor(null);
    onTap(t);
  };
  return (
    <div className="row wide" ref={drop.setNodeRef}>
      <Tooltip title={help} placement="left">
        <label className="ellipsis">{title}</label>
      </Tooltip>
      <button
        className={`feedbox${seen ? '' : ' none'}${drop.isOver ? ' over' : ''}`}
        aria-label={`${title}: ${name}`}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {seen && <Thumbnail tap={seen} width={30} height={17} matte={matte} />}
        <span className="ellipsis">{name}</span>
      </button>
      <span />
      {anchor && (
        <Menu anchorEl={anchor} open onClose={() => setAnchor(null)}>
          {draw && (
            <MenuItem
              onClick={() => {
                setAnchor(null);
                drawMatte(session, title, draw);
              }}
            >
              Draw shapes for it
            </MenuItem>
          )}
          <MenuItem selected={!tap} onClick={() => choose(null)}>
            {found === undefined ? 'none' : 'found by itself'}
          </MenuItem>
          {session.store
            .getState()
            .shot.lanes.flatMap((l) => [
              <ListSubheader key={`${l.id} head`}>{l.name}</ListSubheader>,
              item(l.id, { lane: l.id }, l.name, tap?.lane === l.id && tap.after === undefined),
              item(`${l.id} start`, { lane: l.id, after: '' }, '▸ start', tap?.lane === l.id && tap.after === ''),
              ...l.steps.map((s) => item(s.id, { lane: l.id, after: s.id }, `▸ ${s.name}`, tap?.after === s.id)),
            ])}
        </Menu>
      )}
    </div>
  );
}
