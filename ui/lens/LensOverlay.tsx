'use client';
import type Konva from 'konva';
import { Fragment, useRef } from 'react';
import { Circle, Layer, Line, Stage as KonvaStage, Text } from 'react-konva';
import type { Crossing, StraightLine } from '@/core/lens';
import { straightAt } from '@/core/lens';
import type { LensReading } from '@/core/readings';
import { lensCommands } from '@/core/commands';
import { useDrag } from '../stage/handles/use-drag';
import type { Space } from '../stage/handles/use-step-space';
import { useStepSpace } from '../stage/handles/use-step-space';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { useBench, useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { useSeen } from '../workbench/use-picture';
import { changeAndSolve, settleCrossing } from './lens-jobs';

/** How much longer than they are residuals are drawn. */
const ENLARGED = 60;

/**
 * The crossings of a chart on its frame: round where they are used, crossed out where not, a square where set by hand; what is left at each, enlarged. Rows
 * and columns are laid over with rulers from end to end. Drawn where the picture is seen: also straightened.
 */
export function LensOverlay({ place, reading, frame }: { place: StagePlace; reading: LensReading; frame: number }) {
  const space = useStepSpace(reading.from, place);
  const vectors = useView((s) => s.lensVectors);
  const { shot, tap } = useSeen();
  if (!space) return null;
  // Whether the picture is straight where it is looked at: then what is left of a bend is told.
  const straight = Boolean(tap && straightAt(shot, tap, { frame, scale: 1 }));
  const chart = reading.frames.find((f) => f.frame === frame);
  const lines = reading.lines.map((line, index) => ({ line, index })).filter(({ line }) => line.frame === frame);
  return (
    <div className="overlay live" data-testid="lens-overlay">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {lines.map(({ line, index }) => (
            <Ruled key={index} space={space} line={line} straight={straight} />
          ))}
          {chart && <Rulers space={space} crossings={chart.crossings} />}
          {chart && vectors && <Vectors space={space} crossings={chart.crossings} />}
          {chart?.crossings.map((c) => (
            <Mark key={`${c.column} ${c.row}`} id={reading.id} frame={frame} crossing={c} space={space} />
          ))}
        </Layer>
      </KonvaStage>
    </div>
  );
}

/** A found edge, and the chord that it would be if it were straight. */
function Ruled({
  space,
  line: { found: places, ruler: dashed, out, bend, left },
  straight,
}: {
  space: Space;
  line: StraightLine;
  straight: boolean;
}) {
  const points = Array.from({ length: places.length / 2 }, (_, i) => space.at(places[2 * i]!, places[2 * i + 1]!)).filter(([x, y]) =>
    Number.isFinite(x + y),
  );
  if (points.length < 2) return null;
  const [x, y] = points[points.length >> 1]!;
  const bent = straight ? left : bend;
  return (
    <>
      <Line
        points={[...points[0]!, ...points[points.length - 1]!]}
        stroke={tokens.bone}
        strokeWidth={1}
        opacity={0.8}
        dash={[2, 3]}
        listening={false}
      />
      <Line
        points={points.flat()}
        stroke={out ? tokens.ochre : tokens.glaze}
        strokeWidth={1.5}
        {...(dashed && { dash: [6, 4] })}
        listening={false}
      />
      {bent !== undefined && (
        <Text
          x={x + 8}
          y={y + 8}
          text={`${bent.toFixed(2)} px`}
          fontSize={12}
          fontFamily="IBM Plex Mono"
          fill={tokens.bone}
          listening={false}
        />
      )}
    </>
  );
}

/** A straight line from the first to the last crossing of each row and column. */
function Rulers({ space, crossings }: { space: Space; crossings: readonly Crossing[] }) {
  const ends = new Map<string, [Crossing, Crossing]>();
  for (const c of crossings) {
    if (!c.used) continue;
    for (const [key, at] of [
      [`row ${c.row}`, c.column],
      [`column ${c.column}`, c.row],
    ] as const) {
      const had = ends.get(key);
      const along = (x: Crossing): number => (key.startsWith('row') ? x.column : x.row);
      ends.set(key, had ? [along(had[0]) <= at ? had[0] : c, along(had[1]) >= at ? had[1] : c] : [c, c]);
    }
  }
  return (
    <>
      {[...ends].map(([key, [a, b]]) => (
        <Line
          key={key}
          points={[...space.at(a.x, a.y), ...space.at(b.x, b.y)]}
          stroke={tokens.bone}
          strokeWidth={1}
          opacity={0.35}
          listening={false}
        />
      ))}
    </>
  );
}

function Vectors({ space, crossings }: { space: Space; crossings: readonly Crossing[] }) {
  return (
    <>
      {crossings.map((c) => {
        if (!c.off) return null;
        const [x, y] = space.at(c.x, c.y);
        const [u, v] = space.at(c.x + c.off[0], c.y + c.off[1]);
        const colour = c.used ? tokens.glaze : tokens.ochre;
        return (
          <Line
            key={`${c.column} ${c.row}`}
            points={[x, y, x + ENLARGED * (u - x), y + ENLARGED * (v - y)]}
            stroke={colour}
            strokeWidth={1.5}
            listening={false}
          />
        );
      })}
    </>
  );
}

function Mark({ id, frame, crossing: c, space }: { id: string; frame: number; crossing: Crossing; space: Space }) {
  const bench = useBench();
  const run = useRun();
  const drag = useDrag();
  const chosen = useView((s) => s.crossing);
  // Each move draws it anew: what the drag's end needs outlives that.
  const last = useRef('');
  const [x, y] = space.at(c.x, c.y);
  if (!Number.isFinite(x + y)) return null;
  const here = chosen?.frame === frame && chosen.column === c.column && chosen.row === c.row;
  const moved = drag(
    () => c,
    ({ at, gesture }) => {
      last.current = gesture;
      const [u, v] = space.from(...at);
      run('Move crossing', lensCommands.moveCrossing(id, frame, c, u, v), gesture);
    },
    () => void settleCrossing(bench, id, frame, c, 'Move crossing', last.current),
  );
  const toggle = (e: Konva.KonvaEventObject<MouseEvent>): void => {
    e.cancelBubble = true;
    void changeAndSolve(bench, id, c.used ? 'Throw out crossing' : 'Use crossing', lensCommands.countCrossings(id, frame, [c], !c.used));
  };
  return (
    <Fragment>
      {here && <Circle x={x} y={y} radius={9} stroke={tokens.bone} strokeWidth={1.5} listening={false} />}
      {!c.used && (
        <Line
          points={[x - 4, y - 4, x + 4, y + 4, x, y, x - 4, y + 4, x + 4, y - 4]}
          stroke={tokens.ochre}
          strokeWidth={1.5}
          listening={false}
        />
      )}
      <Circle
        x={x}
        y={y}
        radius={c.hand ? 4.5 : 3}
        {...(c.used ? { stroke: tokens.pit, fill: c.hand ? tokens.bone : tokens.glaze } : { fill: 'rgb(0 0 0 / 1%)' })}
        strokeWidth={1}
        hitStrokeWidth={12}
        onClick={() => view.set({ crossing: { frame, column: c.column, row: c.row } })}
        onDblClick={toggle}
        {...moved}
      />
    </Fragment>
  );
}
