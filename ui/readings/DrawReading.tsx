'use client';
import { useEffect, useState } from 'react';
import type { CameraReading, PlaneReading } from '@/core/readings';
import { dataOf } from '@/core/readings';
import type { Tap } from '@/core/document';
import { inPolygon, invert, mapPolygon } from '@/core/geometry';
import { tracksOf } from '@/core/space';
import { placeOf } from '../space/camera-view';
import type { Suggestion } from '@/engine/browser';
import { readingWorker } from '@/engine/browser';
import type { Change } from '@/core/commands';
import { addPlane, addPoint, changePlane, countCrossingsIn } from '@/core/commands';
import { hideMark } from '@/core/assemblies';
import { removing } from '../clean/removing';
import { AreaGuide, useThreeOthers } from './AreaGuide';
import { DragBox } from '../stage/DragBox';
import { ToolHint } from '../stage/ToolHint';
import type { StagePlace } from '../stage/place';
import { changeAndSolve, drawStraight, putCrossing } from '../lens/lens-jobs';
import { bothWays, measureReading } from './measuring';
import { toast, toastError } from '../theme/toast';
import { tokens } from '../theme/tokens';
import { seenTap, useBench, useRun, useShot } from '../workbench/context';
import type { Drawing } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { requestFor } from '../workbench/use-picture';

interface Props {
  place: StagePlace;
  drawing: Drawing;
  toPicture(e: { clientX: number; clientY: number }): [number, number];
}

/** A new reading by clicks on the stage: a point, the corners of a region, or a box in which details are looked for. */
export function DrawReading(props: Props) {
  return props.drawing.kind === 'suggest' ? <Suggest {...props} /> : <Draw {...props} />;
}

/** Makes a reading in what is seen, and selects it. */
function useAdd(): (label: string, change: (tap: Tap, made: { reading?: string }) => Change) => void {
  const shot = useShot();
  const run = useRun();
  const seen = useView((s) => s.seen);
  return (label, change) => {
    const tap = seenTap(shot, seen);
    const made: { reading?: string } = {};
    if (tap && run(label, change(tap, made))) view.set({ selection: { kind: 'reading', id: made.reading! }, dock: 'readings' });
  };
}

const NEAR = 10;

const LENS_HINTS: Partial<Record<Drawing['kind'], string>> = {
  straight: 'Click along an edge that is straight in truth, from end to end; Enter or a double click ends it · Esc ends',
  ruler: 'Click along an edge to see how far it bends; Enter or a double click ends it · Esc ends',
  crossing: 'Click where crossings were missed: each snaps to its place · Esc ends',
  lasso: 'Click around crossings that are wrong; Enter, or the first corner, closes · Esc ends',
  tracks: 'Click around tracks to choose them; Enter, or the first corner, closes · Esc ends',
  lassoBack: 'Click around crossings that shall count again; Enter, or the first corner, closes · Esc ends',
};

function Draw({ place, drawing, toPicture }: Props) {
  const shot = useShot();
  const run = useRun();
  const bench = useBench();
  const add = useAdd();
  const frame = useView((s) => s.frame);
  const three = useThreeOthers(null);
  const [points, setPoints] = useState<number[]>([]);
  const [at, setAt] = useState<[number, number] | null>(null);
  /** A line has two ends; everything else closes. */
  const open = drawing.kind === 'straight' || drawing.kind === 'ruler';

  /** A zone over what was drawn around, which is measured both ways at once. */
  const hide = (shape: number[]): void => {
    const tap = seenTap(shot, view.get().seen);
    const made: { reading?: string; zone?: string } = {};
    if (!tap || !run('Hide a mark', hideMark(tap, shape, frame, made))) return;
    view.set({ selection: { kind: 'zone', id: made.zone! }, seen: tap.lane === shot.result ? null : { lane: tap.lane } });
    void measureReading(bench, made.reading!, { anchors: bothWays(frame) });
  };

  /** Tracks of a camera that lie inside what was drawn around are chosen. */
  const chooseAround = (id: string, shape: number[]): void => {
    const camera = shot.readings.find((r): r is CameraReading => r.id === id && r.kind === 'camera');
    const inside = camera
      ? tracksOf(camera, shot.readings).filter((t) => {
          const at = placeOf(t, frame);
          return at && inPolygon(shape, at[0], at[1]);
        })
      : [];
    view.set({ drawing: null, tracks: inside.map((t) => t.id) });
    if (inside.length === 0) toast('info', 'No track lies in there on this frame.');
  };

  const close = (shape: number[]): void => {
    setPoints([]);
    if (drawing.kind === 'straight' || drawing.kind === 'ruler') {
      if (shape.length < 4) return toast('info', 'A line needs its two ends at least.');
      return void drawStraight(bench, drawing.reading, frame, shape, drawing.kind === 'ruler');
    }
    if (shape.length < 6) return toast('info', 'A region needs three corners or more.');
    if (drawing.kind === 'hide') return hide(shape);
    if (drawing.kind === 'remove') return removing.drawn(shot, shape, frame);
    if (drawing.kind === 'plane') return add('New plane', (tap, made) => addPlane(tap, shape, frame, made));
    if (drawing.kind === 'lasso' || drawing.kind === 'lassoBack') {
      const used = drawing.kind === 'lassoBack';
      view.set({ drawing: null });
      return void changeAndSolve(
        bench,
        drawing.reading,
        used ? 'Use crossings' : 'Throw out crossings',
        countCrossingsIn(drawing.reading, frame, shape, used),
      );
    }
    if (drawing.kind === 'tracks') return chooseAround(drawing.reading, shape);
    if (drawing.kind !== 'shape' && drawing.kind !== 'without') return;
    const reading = shot.readings.find((r): r is PlaneReading => r.id === drawing.reading && r.kind === 'plane');
    if (!reading) return;
    // Shapes are kept as they lie on the reference frame.
    const back = invert(dataOf(reading, 1).mapAt(frame));
    if (!back) return toast('info', 'The plane is folded on this frame; draw the shape on another.');
    const home = mapPolygon(back, shape);
    const { shapes, without } = reading.region;
    const region = drawing.kind === 'shape' ? { shapes: [...shapes, home], without } : { shapes, without: [...without, home] };
    run('Add shape', changePlane(reading.id, { region }));
    view.set({ drawing: null });
  };

  useEffect(() => {
    const enter = (e: KeyboardEvent): void => {
      if (e.key !== 'Enter' || points.length === 0) return;
      e.preventDefault();
      close(points);
    };
    window.addEventListener('keydown', enter);
    return () => window.removeEventListener('keydown', enter);
  });

  const click = (e: React.PointerEvent): void => {
    if (e.button !== 0 || document.body.dataset.space === 'down') return;
    const p = toPicture(e);
    if (drawing.kind === 'point') return add('New point', (tap, made) => addPoint(tap, p, frame, made));
    if (drawing.kind === 'crossing') return void putCrossing(bench, drawing.reading, frame, ...p);
    if (!open && points.length >= 6 && Math.hypot(p[0] - points[0]!, p[1] - points[1]!) * place.zoom < NEAR) return close(points);
    setPoints([...points, ...p]);
  };
  const screen = (x: number, y: number): string => `${place.x + x * place.zoom},${place.y + y * place.zoom}`;
  const line = [...points, ...(at && points.length ? at : [])];
  const others = drawing.kind === 'point' ? three : null;
  return (
    <>
      {others && <AreaGuide place={place} others={others} format={shot.format} />}
      <svg
        className="overlay"
        style={{ pointerEvents: 'auto', cursor: 'crosshair' }}
        width={place.width}
        height={place.height}
        data-testid="draw-reading"
        onPointerDown={click}
        onPointerMove={(e) => setAt(toPicture(e))}
        onDoubleClick={() => (open ? points.length >= 4 && close(points.slice(0, -2)) : points.length >= 6 && close(points))}
      >
        {open && line.length >= 4 && (
          <polyline
            points={Array.from({ length: line.length / 2 }, (_, i) => screen(line[2 * i]!, line[2 * i + 1]!)).join(' ')}
            fill="none"
            stroke={tokens.bone}
            strokeDasharray="5 4"
          />
        )}
        {!open && line.length >= 4 && (
          <polygon
            points={Array.from({ length: line.length / 2 }, (_, i) => screen(line[2 * i]!, line[2 * i + 1]!)).join(' ')}
            fill={tokens.glaze}
            fillOpacity={0.15}
            stroke={tokens.bone}
            strokeDasharray="5 4"
          />
        )}
        {points.length > 0 && (
          <circle cx={place.x + points[0]! * place.zoom} cy={place.y + points[1]! * place.zoom} r={5} fill={tokens.bone} />
        )}
      </svg>
      <ToolHint
        text={
          LENS_HINTS[drawing.kind] ??
          (drawing.kind === 'hide' || drawing.kind === 'remove'
            ? `Click around what shall ${drawing.kind === 'hide' ? 'be hidden' : 'go, with its shadow'}; Enter, or the first corner, closes · Esc ends`
            : drawing.kind !== 'point'
              ? 'Click the corners; Enter, or the first corner, closes · Esc ends'
              : others
                ? 'Click the detail; hatched: no good fourth corner for a pin · Esc ends'
                : 'Click the detail · Esc ends')
        }
      />
    </>
  );
}

/** A box in which good details are found; a click on one makes it a point. */
function Suggest({ place, toPicture }: Props) {
  const shot = useShot();
  const add = useAdd();
  const { viewer } = useBench();
  const frame = useView((s) => s.frame);
  const seen = useView((s) => s.seen);
  const [found, setFound] = useState<readonly Suggestion[]>([]);
  const tap = seenTap(shot, seen);
  const look = async ([x0, y0, x1, y1]: readonly [number, number, number, number]): Promise<void> => {
    if (!tap) return;
    // A mere click looks around it.
    const box = x1 - x0 < 4 ? ([x0 - 60, y0 - 60, x0 + 60, y0 + 60] as const) : ([x0, y0, x1, y1] as const);
    const { pixels, region, format } = await viewer.fetchToKeep(shot, requestFor(tap, frame, 1), 'view');
    const list = await readingWorker.call((w) => w.suggest({ pixels, region, format }, 'luma', box));
    setFound(list);
    if (list.length === 0) toast('info', 'There is no detail to hold on to in there; try a larger box, or a lane with more contrast.');
  };
  return (
    <>
      <DragBox place={place} testId="suggest" toPicture={toPicture} onBox={(b) => void look(b).catch(toastError)} />
      <div className="overlay" style={{ pointerEvents: 'none' }}>
        {found.map((s, i) => (
          <button
            key={i}
            className="suggestion"
            style={{ left: place.x + s.x * place.zoom, top: place.y + s.y * place.zoom, pointerEvents: 'auto' }}
            title={`${i + 1}: ${s.why}`}
            aria-label={`Detail ${i + 1}: ${s.why}`}
            onClick={() => add('New point', (of, made) => addPoint(of, [s.x, s.y], frame, made))}
          >
            {i + 1}
          </button>
        ))}
      </div>
    </>
  );
}
