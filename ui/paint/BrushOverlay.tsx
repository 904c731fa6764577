'use client';
import { useRef, useState } from 'react';
import { SRGB } from '@/core/colour';
import { findStep } from '@/core/document';
import { mapPoint, rect } from '@/core/geometry';
import type { LaidStroke } from '@/core/paint';
import { copies, poseStrokes, strokesOf } from '@/core/paint';
import { boxStatistics } from '@/core/scopes';
import { carryOf, uncarryOf } from '@/core/shape';
import { setParams } from '@/core/commands';
import type { Space } from '../stage/handles/use-step-space';
import { useStepSpace } from '../stage/handles/use-step-space';
import { useOnStage } from '../stage/on-stage';
import type { StagePlace } from '../stage/place';
import { ToolHint } from '../stage/ToolHint';
import { toast } from '../theme/toast';
import { tokens } from '../theme/tokens';
import { useRun, useShot } from '../workbench/context';
import type { BrushTip, Picking } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { changeTip, hasColour } from './brushing';
import { Ghost } from './Ghost';
import { shiftOf, sourceProblem, strokeOf } from './new-stroke';
import { useSourcePicture } from './use-source-picture';

interface Props {
  place: StagePlace;
  brushing: Picking;
  toPicture(e: { clientX: number; clientY: number }): [number, number];
}

/** Frames that a new stroke is there for. */
function framesOf(tip: BrushTip, shot: { range: { first: number; last: number } }): { first: number; last: number } {
  const { frame, inOut } = view.get();
  if (tip.frames === 'this') return { first: frame, last: frame };
  return tip.frames === 'inOut' && inOut ? inOut : shot.range;
}

const css = (colour: readonly number[]): string =>
  `rgb(${colour.map((v) => Math.round(255 * SRGB.encode(Math.min(1, Math.max(0, v))))).join(' ')})`;

/** The brush on the stage, in its step's own space: where later steps move the picture, a stroke lies where it is seen. */
export function BrushOverlay(props: Props) {
  const shot = useShot();
  const found = findStep(shot, props.brushing.step);
  const space = useStepSpace({ lane: found?.lane.id ?? '', after: props.brushing.step }, props.place);
  if (!found) return null;
  if (!space)
    return <ToolHint text="What is brushed is not in the picture that is seen: press V, or select a lane that shows it · Esc ends" />;
  return <Brushing {...props} space={space} />;
}

/** A drag draws; Alt and a click say from where is copied, or take a colour; Shift and a drag change the size. */
function Brushing({ place, brushing, toPicture, space }: Props & { space: Space }) {
  const shot = useShot();
  const run = useRun();
  const tip = useView((s) => s.brush);
  const frame = useView((s) => s.frame);
  const chosen = useView((s) => s.stroke);
  const line = useRef<{ points: number[]; pressure: number[]; pen: boolean } | null>(null);
  const sizing = useRef<{ x: number; size: number } | null>(null);
  const [drawn, setDrawn] = useState<string>('');
  const [at, setAt] = useState<[number, number] | null>(null);
  const { step } = findStep(shot, brushing.step)!;
  const value = step.params[brushing.param] ?? [];
  const laid = poseStrokes(value, shot, frame).list;
  const takes = copies(tip.tool);
  const lays = hasColour(tip.tool);
  const source = useSourcePicture(takes ? step.id : null, tip.tool === 'reveal' ? tip.from : (tip.source?.frame ?? null), tip.other);

  const local = (e: { clientX: number; clientY: number }): [number, number] => {
    const [x, y] = toPicture(e);
    return space.from(place.x + x * place.zoom, place.y + y * place.zoom);
  };
  const zoomAt = (p: readonly [number, number]): number => {
    const [[x, y], [u, v]] = [space.at(...p), space.at(p[0] + 1, p[1])];
    return Math.hypot(u - x, v - y);
  };
  const [x, y] = at ? space.at(...at) : [0, 0];
  const radius = (tip.size * (at ? zoomAt(at) : place.zoom)) / 2;

  /** Where a place of the step's picture is copied from, for the ghost; null where that is not known yet. */
  const lookAt = (p: readonly [number, number]): readonly [number, number] | null => {
    if (tip.tool === 'reveal') return p;
    const shift = shiftOf(shot, tip, line.current ? [line.current.points[0]!, line.current.points[1]!] : p, frame);
    if (!shift) return null;
    const follows = tip.follows ? [tip.follows] : [];
    const back = uncarryOf(shot, { follows }, frame);
    if (!back) return null;
    const [hx, hy] = mapPoint(back, ...p);
    return mapPoint(carryOf(shot, { follows }, tip.source?.frame ?? frame), hx + shift[0], hy + shift[1]);
  };

  const pick = (e: React.PointerEvent, p: readonly [number, number]): void => {
    if (tip.tool === 'clone' || tip.tool === 'heal') return changeTip({ source: { at: p, frame }, shift: null });
    const { rendered, scale } = useOnStage.getState();
    const [px, py] = toPicture(e).map((v) => Math.floor(v * scale)) as [number, number];
    const mean = rendered && boxStatistics(rendered, rect(px - 1, py - 1, px + 2, py + 2))?.mean;
    if (mean) changeTip({ colour: [mean[0]!, mean[1]!, mean[2]!] });
  };
  const finish = (): void => {
    const made = line.current;
    line.current = null;
    setDrawn('');
    if (!made) return;
    const problem = sourceProblem(tip, step.feeds.other !== undefined);
    if (problem) return toast('info', problem);
    const span = framesOf(tip, shot);
    const stroke = strokeOf(shot, tip, { points: made.points, pressure: made.pen ? made.pressure : null, frame, span });
    if (!stroke) return;
    const list = strokesOf(value);
    const label = tip.tool === 'erase' ? 'Erase stroke' : 'Brush stroke';
    if (!run(label, setParams(step.id, { [brushing.param]: [...list, stroke] }, frame))) return;
    // The next one copies from as far beside.
    if (stroke.shift) changeTip({ shift: [stroke.shift[0]!, stroke.shift[1]!] });
    view.set({ stroke: list.length });
  };
  const onStage = (points: readonly number[]): string =>
    points.flatMap((v, i) => (i % 2 ? [] : space.at(v, points[i + 1]!).map((p) => p.toFixed(1)))).join(' ');
  const twice = (text: string): string => (text.indexOf(' ') === text.lastIndexOf(' ') ? `${text} ${text}` : text);
  const inHand = laid.find((l) => (value as readonly unknown[])[chosen ?? -1] === l.stroke);
  const from = at && takes ? lookAt(at) : null;
  const cross = tip.source && tip.source.frame === frame && (tip.tool === 'clone' || tip.tool === 'heal') ? (from ?? tip.source.at) : null;

  return (
    <>
      {at && from && source && <Ghost picture={source} scale={0.5} from={from} at={[x, y]} radius={radius} zoom={zoomAt(at)} />}
      <svg
        className="overlay"
        style={{ pointerEvents: 'auto', cursor: 'none' }}
        width={place.width}
        height={place.height}
        data-testid="brush"
        onPointerDown={(e) => {
          if (e.button !== 0 || document.body.dataset.space === 'down') return;
          const p = local(e);
          if (e.altKey) return pick(e, p);
          e.currentTarget.setPointerCapture(e.pointerId);
          if (e.shiftKey) sizing.current = { x: e.clientX, size: tip.size };
          else {
            line.current = { points: [...p], pressure: [e.pressure], pen: e.pointerType === 'pen' };
            setDrawn(onStage(line.current.points));
          }
        }}
        onPointerMove={(e) => {
          if (sizing.current) {
            const size = sizing.current.size + (2 * (e.clientX - sizing.current.x)) / place.zoom;
            return changeTip({ size: Math.round(Math.min(1000, Math.max(1, size))) });
          }
          setAt(local(e));
          if (!line.current) return;
          // Every place the hand was at, also those between two frames of the screen.
          const all = e.nativeEvent.getCoalescedEvents?.() ?? [];
          for (const c of all.length > 0 ? all : [e.nativeEvent]) {
            line.current.points.push(...local(c));
            line.current.pressure.push(c.pressure);
          }
          setDrawn(onStage(line.current.points));
        }}
        onPointerUp={() => {
          sizing.current = null;
          finish();
        }}
        onPointerCancel={() => {
          sizing.current = null;
          line.current = null;
          setDrawn('');
        }}
        onPointerLeave={() => !line.current && setAt(null)}
      >
        {!brushing.shows && <BrushedRegion list={laid} zoom={place.zoom} onStage={(p) => twice(onStage(p))} />}
        {inHand && (
          <polyline
            points={twice(onStage(inHand.points))}
            fill="none"
            stroke={tokens.bone}
            strokeWidth={1}
            strokeDasharray="4 3"
            strokeLinecap="round"
          />
        )}
        {drawn && (
          <polyline
            points={twice(drawn)}
            fill="none"
            stroke={lays ? (brushing.shows ? css(tip.colour) : tokens.glaze) : tip.tool === 'erase' ? tokens.pit : tokens.bone}
            strokeWidth={2 * radius}
            strokeLinecap="round"
            strokeLinejoin="round"
            opacity={lays ? 0.25 + 0.45 * tip.flow : 0.25}
          />
        )}
        {cross && <Cross at={space.at(...cross)} />}
        {at && (
          <>
            <circle cx={x} cy={y} r={radius} fill="none" stroke={tokens.pit} strokeWidth={2.5} opacity={0.6} />
            <circle
              cx={x}
              cy={y}
              r={radius}
              fill="none"
              stroke={tokens.bone}
              strokeWidth={1}
              strokeDasharray={tip.tool === 'erase' ? '3 3' : undefined}
            />
            {tip.hardness < 1 && (
              <circle cx={x} cy={y} r={radius * tip.hardness} fill="none" stroke={tokens.bone} strokeWidth={0.5} opacity={0.6} />
            )}
          </>
        )}
      </svg>
    </>
  );
}

/** Where is copied from. */
function Cross({ at: [x, y] }: { at: readonly [number, number] }) {
  return (
    <g data-testid="copied from" strokeWidth={1.5}>
      {[tokens.pit, tokens.bone].map((stroke, i) => (
        <path key={stroke} d={`M${x - 7} ${y}H${x + 7}M${x} ${y - 7}V${y + 7}`} stroke={stroke} strokeWidth={i ? 1 : 3} fill="none" />
      ))}
    </g>
  );
}

/** Where a brush says only where: its strokes lie over the picture while one brushes. */
function BrushedRegion({ list, zoom, onStage }: { list: readonly LaidStroke[]; zoom: number; onStage(p: readonly number[]): string }) {
  return (
    <g opacity={0.3}>
      {list.map((s, i) => (
        <polyline
          key={i}
          points={onStage(s.points)}
          fill="none"
          stroke={s.stroke.tool === 'erase' ? tokens.pit : tokens.glaze}
          strokeWidth={s.size * zoom}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
    </g>
  );
}
