'use client';
import { useDroppable } from '@dnd-kit/core';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Lane, Shot } from '@/core/document';
import { lanesBehind } from '@/core/document';
import type { Remark } from '@/core/evaluate';
import { makePlan } from '@/core/evaluate';
import { messageOf } from '@/core/errors';
import { RGBA } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { AddIcon, GridOnIcon, UnfoldLessIcon, UnfoldMoreIcon } from '@/ui/theme/icons';
import type { Target } from '../workbench/drag';
import { useBench, useRun, useShot } from '../workbench/context';
import { newEmptyLane } from '../search/actions';
import { walkBoard } from './walk';
import { useView } from '../workbench/state';
import { LaneRow, aboutLane } from './LaneRow';
import { Overview } from './Overview';
import { Playhead, Ruler } from './TimeStrip';

const RULER = 24;
const ROW = 42;
const COLLAPSED = 24;

/** Milliseconds that a frame and the shot must stand before their remarks are looked for. */
const REST = 200;

/** What the plans of all lanes have to say at a frame. */
export function useRemarks(): Remark[] {
  const edited = useShot();
  const [shot, setShot] = useState(edited);
  // Planning every lane takes longer than a drag's step may: it is done once edits rest.
  useEffect(() => {
    if (edited === shot) return undefined;
    const timer = setTimeout(() => setShot(edited), REST);
    return () => clearTimeout(timer);
  }, [edited, shot]);
  // While frames pass, the remarks of the one at which that began are good enough.
  const still = useView((s) => (s.playing ? null : s.frame));
  const [frame, setFrame] = useState(still ?? 1);
  useEffect(() => {
    if (still === null || still === frame) return undefined;
    const timer = setTimeout(() => setFrame(still), REST);
    return () => clearTimeout(timer);
  }, [still, frame]);
  const rendered = useView((s) => s.remarks);
  const now = useMemo(() => merge(remarksOf(shot, frame), rendered), [shot, frame, rendered]);
  // The same remarks stay the same list, so that nothing is drawn again for them.
  const [kept, setKept] = useState(now);
  if (kept !== now && JSON.stringify(kept) !== JSON.stringify(now)) {
    setKept(now);
    return now;
  }
  return kept;
}

const merge = (a: readonly Remark[], b: readonly Remark[]): Remark[] => [
  ...new Map([...a, ...b].map((r) => [`${r.step ?? r.lane} ${r.message}`, r])).values(),
];

/** By shot, an immutable value, and frame: several places show the same remarks. */
const known = new WeakMap<Shot, Map<number, Remark[]>>();

function remarksOf(shot: Shot, frame: number): Remark[] {
  const byFrame = known.get(shot) ?? new Map<number, Remark[]>();
  known.set(shot, byFrame);
  const had = byFrame.get(frame) ?? findRemarks(shot, frame);
  byFrame.set(frame, had);
  return had;
}

function findRemarks(shot: Shot, frame: number): Remark[] {
  const all = new Map<string, Remark>();
  // A plan speaks for every lane that it passes through: those are not planned again.
  const reached = new Set<string>();
  const ordered = [...shot.lanes].sort((a, b) => Number(b.id === shot.result) - Number(a.id === shot.result));
  for (const lane of ordered) {
    if (reached.has(lane.id)) continue;
    lanesBehind(shot, lane.id, reached);
    try {
      const plan = makePlan(shot, { tap: { lane: lane.id }, frame, scale: 1, channels: RGBA }, STEPS);
      for (const r of plan.remarks) all.set(`${r.step ?? r.lane} ${r.message}`, r);
    } catch (e) {
      all.set(messageOf(e), { lane: lane.id, message: messageOf(e) });
    }
  }
  return [...all.values()];
}

/** The board: one row a lane, process at the left, time at the right; nothing is placed by hand. */
export function Lanes() {
  const shot = useShot();
  const remarks = useRemarks();
  const { session } = useBench();
  const { setNodeRef, isOver } = useDroppable({ id: 'board', data: { kind: 'board' } satisfies Target });
  const board = useRef<HTMLDivElement>(null);
  const [filter, setFilter] = useState('');
  const [overview, setOverview] = useState(false);
  const wanted = filter.trim().toLowerCase();
  const shown = wanted ? shot.lanes.filter((l) => [l, ...l.steps].some((x) => x.name.toLowerCase().includes(wanted))) : shot.lanes;
  return (
    <div
      ref={(e) => {
        setNodeRef(e);
        board.current = e;
      }}
      className={`board${isOver ? ' over' : ''}`}
      onKeyDown={(e) => {
        if (!walkBoard(e, session)) return;
        e.preventDefault();
        e.stopPropagation();
      }}
      data-testid="board"
    >
      <Ruler head={<LaneFilter text={filter} onText={setFilter} lanes={shot.lanes} overview={overview} onOverview={setOverview} />} />
      {overview && (
        <Overview
          shot={shot}
          remarks={remarks}
          onGo={(id) => {
            setOverview(false);
            setFilter('');
            requestAnimationFrame(() =>
              board.current?.querySelector(`[data-lane="${CSS.escape(id)}"]`)?.scrollIntoView({ block: 'center' }),
            );
          }}
        />
      )}
      {!overview && shown.map((lane) => <LaneRow key={lane.id} lane={lane} about={aboutLane(shot, lane, remarks)} />)}
      {!overview && <Playhead height={RULER + shown.reduce((sum, l) => sum + (l.collapsed ? COLLAPSED : ROW), 0)} />}
      {!overview && shown.length === shot.lanes.length && <Elbows shot={shot} />}
      {shown.length === 0 && shot.lanes.length > 0 && <div className="empty">No lane or step is called that.</div>}
      {shot.lanes.length === 0 && (
        <div className="empty">
          {shot.sources.length ? 'Drag a source here to make the first lane.' : 'Lanes appear here once there is a source.'}
        </div>
      )}
    </div>
  );
}

/** Finds lanes by their names or their steps', and shows a large board at a glance. */
interface FilterProps {
  text: string;
  onText(text: string): void;
  lanes: readonly Lane[];
  overview: boolean;
  onOverview(on: boolean): void;
}

function LaneFilter({ text, onText, lanes, overview, onOverview }: FilterProps) {
  const run = useRun();
  const { session } = useBench();
  const small = lanes.every((l) => l.collapsed);
  const toggle = (): void =>
    void run(small ? 'Expand all lanes' : 'Collapse all lanes', (s) => {
      for (const l of s.lanes) l.collapsed = !small;
    });
  return (
    <>
      <input
        className="lane-filter"
        placeholder="Find"
        aria-label="Find a lane or step"
        value={text}
        onKeyDown={(e) => e.stopPropagation()}
        onChange={(e) => onText(e.target.value)}
      />
      <button
        className="pill"
        title="A lane that starts from nothing, for generators (Shift+E)"
        aria-label="New empty lane"
        onClick={() => newEmptyLane(session)}
      >
        <AddIcon sx={{ fontSize: 14 }} />
      </button>
      <button
        className={`pill${overview ? ' on' : ''}`}
        title="The whole board at a glance; a click goes there"
        aria-label="Overview of the board"
        aria-pressed={overview}
        onClick={() => onOverview(!overview)}
      >
        <GridOnIcon sx={{ fontSize: 14 }} />
      </button>
      <button
        className="pill"
        title={small ? 'Expand all lanes' : 'One line a lane'}
        aria-label={small ? 'Expand all lanes' : 'Collapse all lanes'}
        onClick={toggle}
      >
        {small ? <UnfoldMoreIcon sx={{ fontSize: 14 }} /> : <UnfoldLessIcon sx={{ fontSize: 14 }} />}
      </button>
    </>
  );
}

/** Lines in the gutter that tie a lane's row to the row whose join brings it. */
function Elbows({ shot }: { shot: Shot }) {
  const tops: number[] = [];
  let y = 0;
  for (const l of shot.lanes) {
    tops.push(y + (l.collapsed ? COLLAPSED : ROW) / 2);
    y += l.collapsed ? COLLAPSED : ROW;
  }
  const lines: { from: number; to: number }[] = [];
  shot.lanes.forEach((lane, i) => {
    for (const step of lane.steps) {
      const front = step.type === 'join' ? step.feeds.front : undefined;
      const j = front ? shot.lanes.findIndex((l) => l.id === front.lane) : -1;
      if (j >= 0) lines.push({ from: tops[j]!, to: tops[i]! });
    }
  });
  return (
    <svg className="elbows" width={30} height={y} fill="none" stroke="#7d6a5c" strokeWidth={1.2} aria-hidden>
      {lines.map(({ from, to }, i) => {
        const x = 8 + (i % 3) * 5;
        return (
          <g key={i}>
            <circle cx={x} cy={from} r={2.5} fill="#7d6a5c" />
            <path d={`M${x} ${from}V${to}H28`} />
          </g>
        );
      })}
    </svg>
  );
}
