'use client';
import { useDraggable, useDroppable } from '@dnd-kit/core';
import IconButton from '@mui/material/IconButton';
import type { ReactNode } from 'react';
import { memo, useEffect, useRef, useState } from 'react';
import type { Lane, Shot, Tap } from '@/core/document';
import { behindOf, looksBehind, spanOfZone, usersOf } from '@/core/document';
import type { Remark } from '@/core/evaluate';
import { commands } from '@/core/commands';
import { AdjustIcon, LockIcon, MoreVertIcon, VisibilityIcon, VisibilityOffIcon } from '@/ui/theme/icons';
import type { Dragged, Target } from '../workbench/drag';
import { useGap, useRowGap } from '../workbench/drag';
import { tapName, useBench, useRun } from '../workbench/context';
import { chosenSteps } from '../workbench/copying';
import { deleteThing } from '../workbench/deleting';
import { RowMenu } from '../workbench/RowMenu';
import { useView, view } from '../workbench/state';
import { Thumbnail } from '../stage/Thumbnail';
import { StartChip, StepChip, joinWord } from './Chip';
import { Renamable } from './Renamable';
import { TimeStrip } from './TimeStrip';
import { ZoneBracket } from './ZoneBracket';

/** What a row shows that is not in its lane. */
export interface LaneAbout {
  use: string;
  matte: boolean;
  result: boolean;
  /** It lies over or under the result. */
  stacked: boolean;
  start: string;
  /** What each join brings, what other steps have found behind the lane, and what is remarked of each. */
  fronts: Record<string, string>;
  behinds: Record<string, string>;
  remarks: Record<string, string>;
}

export function aboutLane(shot: Shot, lane: Lane, remarks: readonly Remark[]): LaneAbout {
  const fronts = lane.steps.flatMap((s): [string, string][] =>
    s.type === 'join' && s.feeds.front ? [[s.id, tapName(shot, s.feeds.front)]] : [],
  );
  const behinds = lane.steps.flatMap((s): [string, string][] => {
    const tap = looksBehind(s) ? behindOf(shot, lane, s.id) : null;
    return tap ? [[s.id, tapName(shot, tap)]] : [];
  });
  return {
    use: purposeOf(shot, lane),
    matte: isMatte(shot, lane),
    result: shot.result === lane.id,
    stacked: shot.result !== lane.id && commands.stackOf(shot).some((e) => e.lane === lane.id),
    start: startName(shot, lane),
    fronts: Object.fromEntries(fronts),
    behinds: Object.fromEntries(behinds),
    remarks: Object.fromEntries(remarks.filter((r) => r.step && lane.steps.some((s) => s.id === r.step)).map((r) => [r.step!, r.message])),
  };
}

interface Props {
  lane: Lane;
  about: LaneAbout;
}

/** A row is drawn again only where its own lane, or what is shown of others, is another. */
export const LaneRow = memo(Row, (a, b) => a.lane === b.lane && JSON.stringify(a.about) === JSON.stringify(b.about));

function Row({ lane, about }: Props) {
  const run = useRun();
  const { session } = useBench();
  const selected = useView((s) => s.selection?.kind === 'lane' && s.selection.id === lane.id);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const renaming = useView((s) => s.renaming === lane.id);
  const setRenaming = (on: boolean): void => view.set({ renaming: on ? lane.id : null });
  const solo = useView((s) => s.solo.includes(lane.id));
  const falls = useRowGap((s) => (s.place?.lane === lane.id ? s.place.side : null));
  const toggleSolo = (): void => {
    const { solo: had } = view.get();
    view.set({ solo: solo ? had.filter((id) => id !== lane.id) : [...had, lane.id] });
  };
  const act = (label: string, change: commands.Change) => () => void run(label, change);
  /** A new lane is the one that is worked on next. */
  const tap = (from: Tap) => () => {
    const made: { lane?: string } = {};
    if (run('New lane', commands.tapLane(from, made)) && made.lane) view.set({ selection: { kind: 'lane', id: made.lane } });
  };
  return (
    <div
      className={`board-row lane${lane.collapsed ? ' collapsed' : ''}${selected ? ' selected' : ''}${falls ? ` falls-${falls}` : ''}`}
      data-testid={`lane ${lane.name}`}
      data-lane={lane.id}
    >
      <Head
        lane={lane}
        onClick={() => view.set({ selection: { kind: 'lane', id: lane.id } })}
        onContextMenu={(e) => {
          e.preventDefault();
          setMenu(e.currentTarget);
        }}
      >
        <button
          className={`eye${lane.muted ? ' off' : ''}`}
          aria-label={lane.muted ? `Show lane ${lane.name}` : `Mute lane ${lane.name}`}
          aria-pressed={!lane.muted}
          onPointerDown={(e) => e.stopPropagation()}
          onClick={act(lane.muted ? 'Show lane' : 'Mute lane', commands.changeLane(lane.id, { muted: !lane.muted }))}
        >
          {lane.muted ? <VisibilityOffIcon sx={{ fontSize: 15 }} /> : <VisibilityIcon sx={{ fontSize: 15 }} />}
        </button>
        <Thumbnail tap={{ lane: lane.id }} width={50} height={28} matte={about.matte} />
        <div className="grow">
          <b className="ellipsis">
            {solo && <AdjustIcon className="state" titleAccess="Solo" />}
            {lane.locked && <LockIcon className="state" titleAccess="Locked" />}
            <Renamable
              name={lane.name}
              editing={renaming}
              onEdit={setRenaming}
              onName={(name) => run('Rename lane', commands.changeLane(lane.id, { name }))}
            />
          </b>
          <small className={`ellipsis${about.result ? ' result' : ''}`}>{about.use}</small>
        </div>
        <IconButton
          aria-label={`Menu of lane ${lane.name}`}
          onPointerDown={(e) => e.stopPropagation()}
          onClick={(e) => setMenu(e.currentTarget)}
        >
          <MoreVertIcon sx={{ fontSize: 14 }} />
        </IconButton>
        <RowMenu
          anchor={menu}
          onClose={() => setMenu(null)}
          entries={[
            ['Rename', () => setRenaming(true)],
            [solo ? 'End solo' : 'Solo: pass by the joins of other lanes', toggleSolo],
            [
              lane.locked ? 'Unlock' : 'Lock against changes',
              act(lane.locked ? 'Unlock lane' : 'Lock lane', commands.changeLane(lane.id, { locked: !lane.locked })),
            ],
            ['Key a screen (K)', () => view.set({ selection: { kind: 'lane', id: lane.id }, dialog: 'keyScreen' })],
            ...(about.stacked
              ? ([
                  ['Move to the front by one (Alt+↑)', act('Move lane', commands.moveInStack(lane.id, -1))],
                  ['Move to the back by one (Alt+↓)', act('Move lane', commands.moveInStack(lane.id, 1))],
                ] as const)
              : []),
            ['See this lane', () => view.set({ seen: { lane: lane.id } })],
            [
              lane.collapsed ? 'Expand' : 'Collapse to one line',
              act('Collapse lane', commands.changeLane(lane.id, { collapsed: !lane.collapsed })),
            ],
            ['New lane from the end of this one', tap({ lane: lane.id })],
            ['New lane from the start of this one', tap({ lane: lane.id, after: '' })],
            ...(about.result ? [] : ([['Make this the result', act('Set result', commands.setResult(lane.id))]] as const)),
            ['Delete lane', () => deleteThing(session, { kind: 'lane', id: lane.id })],
          ]}
        />
      </Head>
      <Strip lane={lane.id}>
        <StartChip lane={lane} label={about.start} />
        {chipsOf(lane, about)}
        <Slot lane={lane.id} index={lane.steps.length} />
      </Strip>
      <TimeStrip lane={lane} />
    </div>
  );
}

/** The chips of a lane with the wires before them, those of a zone under its bracket. */
function chipsOf(lane: Lane, about: LaneAbout): ReactNode[] {
  const chip = (i: number): ReactNode => {
    const step = lane.steps[i]!;
    return (
      <StepChip
        key={step.id}
        step={step}
        lane={lane.id}
        index={i}
        remark={about.remarks[step.id]}
        front={about.fronts[step.id]}
        behind={about.behinds[step.id]}
      />
    );
  };
  const slot = (i: number): ReactNode => <Slot key={`slot ${i}`} lane={lane.id} index={i} />;
  const out: ReactNode[] = [];
  for (let i = 0; i < lane.steps.length; i++) {
    const zone = lane.zones?.find((z) => z.first === lane.steps[i]!.id);
    out.push(slot(i));
    if (!zone) {
      out.push(chip(i));
      continue;
    }
    const { first, last } = spanOfZone(lane, zone);
    const own = Array.from({ length: last - first + 1 }, (_, k) => first + k);
    out.push(
      <ZoneBracket key={zone.id} zone={zone}>
        {own.flatMap((k) => (k === first ? [chip(k)] : [slot(k), chip(k)]))}
      </ZoneBracket>,
    );
    i = last;
  }
  return out;
}

interface HeadProps {
  lane: Lane;
  onClick(): void;
  onContextMenu(e: React.MouseEvent<HTMLElement>): void;
  children: ReactNode;
}

/** The lane's name and what goes with it, by which it is dragged. Apart from the row: a drag draws only this again. */
function Head({ lane, onClick, onContextMenu, children }: HeadProps) {
  const drag = useDraggable({ id: `lane ${lane.id}`, data: { kind: 'lane', id: lane.id, label: lane.name } satisfies Dragged });
  return (
    <div
      className="lane-head"
      ref={drag.setNodeRef}
      {...drag.listeners}
      tabIndex={0}
      role="group"
      aria-label={`Lane ${lane.name}`}
      onKeyDown={(e) => {
        if (e.target !== e.currentTarget || (e.key !== 'Enter' && e.key !== ' ')) return;
        e.preventDefault();
        e.stopPropagation();
        onClick();
      }}
      onClick={onClick}
      onContextMenu={onContextMenu}
    >
      {children}
    </div>
  );
}

/**
 * The chips of a lane: a place to drop one, and where one is dragged from. There is one thing to drag a lane, which stands for the
 * chip that was pressed: a board of hundreds would otherwise be drawn again whenever a drag begins.
 */
function Strip({ lane, children }: { lane: string; children: ReactNode }) {
  const { session } = useBench();
  const pressed = useRef<Dragged>({ kind: 'chip', id: '', label: '' });
  const drag = useDraggable({ id: `chips of ${lane}`, data: pressed.current });
  const drop = useDroppable({ id: `strip ${lane}`, data: { kind: 'strip', lane } satisfies Target });
  const [element, setElement] = useState<HTMLDivElement | null>(null);
  const more = useMore(element, children);
  return (
    <div
      className={`strip${more.left ? ' more-left' : ''}${more.right ? ' more-right' : ''}`}
      onWheel={(e) => {
        // A long lane goes sideways by whichever wheel there is; the board keeps Ctrl and what is short.
        if (!(more.left || more.right) || !e.shiftKey || e.deltaX !== 0) return;
        e.currentTarget.scrollLeft += e.deltaY;
      }}
      ref={(e) => {
        setElement(e);
        drag.setNodeRef(e);
        drop.setNodeRef(e);
      }}
      onPointerDown={(e) => {
        const at = e.target as HTMLElement;
        const zone = at.closest<HTMLElement>('[data-zone]');
        const chip = zone ?? at.closest<HTMLElement>('[data-step]');
        if (!chip || at.closest('input')) return;
        const run = chosenSteps(session.store.getState().shot);
        const many = !zone && run.length > 1 && run.some((s) => s.id === chip.dataset.step);
        Object.assign(pressed.current, {
          id: chip.dataset.zone ?? chip.dataset.step,
          label: many ? `${run.length} steps` : chip.dataset.label,
        });
        drag.listeners?.onPointerDown?.(e);
      }}
    >
      {children}
    </div>
  );
}

/** Whether a strip goes on beyond its edges. */
function useMore(element: HTMLDivElement | null, children: ReactNode): { left: boolean; right: boolean } {
  const [more, setMore] = useState({ left: false, right: false });
  useEffect(() => {
    if (!element) return undefined;
    const look = (): void => {
      const left = element.scrollLeft > 2;
      const right = element.scrollLeft + element.clientWidth < element.scrollWidth - 2;
      setMore((had) => (had.left === left && had.right === right ? had : { left, right }));
    };
    look();
    const observer = new ResizeObserver(look);
    observer.observe(element);
    element.addEventListener('scroll', look, { passive: true });
    return () => {
      observer.disconnect();
      element.removeEventListener('scroll', look);
    };
  }, [element, children]);
  return more;
}

/** The wire between two chips, marked where a dragged chip would fall. */
function Slot({ lane, index }: { lane: string; index: number }) {
  const over = useGap((s) => s.lane === lane && s.index === index);
  return <span className={`wire${over ? ' over' : ''}`} style={{ width: 14 }} />;
}

function startName(shot: Shot, lane: Lane): string {
  const { start } = lane;
  if ('empty' in start) return 'empty';
  if ('source' in start) return shot.sources.find((s) => s.id === start.source)?.name ?? 'missing source';
  return `tap ${tapName(shot, start.tap)}`;
}

const MATTE_USES = ['mask', 'inside', 'outside', 'other'];

/** A lane of which only the matte is used is shown as one. */
function isMatte(shot: Shot, lane: Lane): boolean {
  const users = usersOf(shot, lane.id).filter((u) => u.use !== 'start');
  return users.length > 0 && users.every((u) => MATTE_USES.includes(u.use));
}

/** "result", "over ▸ harbour", "feeds Screen key", "teaches Coat", "not used". */
function purposeOf(shot: Shot, lane: Lane): string {
  if (shot.result === lane.id) return 'result';
  const users = usersOf(shot, lane.id);
  const join = users.find((u) => u.step?.type === 'join' && u.use === 'front');
  if (join) return `${joinWord(join.step!)} ▸ ${join.lane.name}`;
  const fed = users.find((u) => u.step);
  if (fed) return fed.use === 'mask' ? `masks ${fed.step!.name}` : `feeds ${fed.step!.name}`;
  if (users.length) return `starts ${users[0]!.lane.name}`;
  const lesson = shot.readings.find((r) => r.kind === 'lesson' && r.examples.some((e) => e.target.lane === lane.id));
  return lesson ? `teaches ${lesson.name}` : 'not used';
}
