'use client';
import { useRef, useState } from 'react';
import { rect } from '@/core/geometry/rect';
import { findStep } from '@/core/document/params';
import { SRGB } from '@/core/colour/transfer';
import { boxStatistics } from '@/core/scopes';
import type { Stroke } from '@/core/paint/strokes';
import { simplifyLine, strokesAt, strokesOf } from '@/core/paint/strokes';
import { setParams } from '@/store/commands';
import { tokens } from '../theme/tokens';
import { useRun, useShot } from '../workbench/context';
import type { BrushTip, Picking } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { useOnStage } from './on-stage';
import type { StagePlace } from './place';

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

/** The brush: a drag draws, Alt and a click take a colour from what is seen, Shift and a drag change the size. */
export function BrushOverlay({ place, brushing, toPicture }: Props) {
  const shot = useShot();
  const run = useRun();
  const tip = useView((s) => s.brush);
  const frame = useView((s) => s.frame);
  const line = useRef<number[] | null>(null);
  const sizing = useRef<{ x: number; size: number } | null>(null);
  const [drawn, setDrawn] = useState<string>('');
  const [at, setAt] = useState<[number, number] | null>(null);
  const found = findStep(shot, brushing.step);
  const value = found?.step.params[brushing.param] ?? [];
  const [x, y] = at ? [place.x + at[0] * place.zoom, place.y + at[1] * place.zoom] : [0, 0];
  const radius = (tip.size * place.zoom) / 2;

  const pick = (p: readonly [number, number]): void => {
    const { rendered, scale } = useOnStage.getState();
    const [px, py] = p.map((v) => Math.floor(v * scale)) as [number, number];
    const mean = rendered && boxStatistics(rendered, rect(px - 1, py - 1, px + 2, py + 2))?.mean;
    if (mean) view.set({ brush: { ...tip, colour: [mean[0]!, mean[1]!, mean[2]!] } });
  };
  const finish = (): void => {
    const points = line.current;
    line.current = null;
    setDrawn('');
    if (!points || !found) return;
    const stroke: Stroke = {
      tool: tip.erase ? 'erase' : 'paint',
      ...framesOf(tip, shot),
      size: tip.size,
      hardness: tip.hardness,
      flow: tip.flow,
      colour: tip.colour.map((v) => Number(v.toPrecision(5))),
      points: simplifyLine(points, 0.4),
    };
    run(tip.erase ? 'Erase stroke' : 'Brush stroke', setParams(brushing.step, { [brushing.param]: [...strokesOf(value), stroke] }, frame));
  };
  const onStage = (points: readonly number[]): string =>
    points.map((v, i) => (i % 2 ? place.y + v * place.zoom : place.x + v * place.zoom).toFixed(1)).join(' ');

  return (
    <svg
      className="overlay"
      style={{ pointerEvents: 'auto', cursor: 'none' }}
      width={place.width}
      height={place.height}
      data-testid="brush"
      onPointerDown={(e) => {
        if (e.button !== 0 || document.body.dataset.space === 'down') return;
        const p = toPicture(e);
        if (e.altKey) return pick(p);
        e.currentTarget.setPointerCapture(e.pointerId);
        if (e.shiftKey) sizing.current = { x: e.clientX, size: tip.size };
        else {
          line.current = [...p];
          setDrawn(onStage(line.current));
        }
      }}
      onPointerMove={(e) => {
        if (sizing.current) {
          const size = sizing.current.size + (2 * (e.clientX - sizing.current.x)) / place.zoom;
          view.set({ brush: { ...tip, size: Math.round(Math.min(1000, Math.max(1, size))) } });
          return;
        }
        const p = toPicture(e);
        setAt(p);
        if (!line.current) return;
        line.current.push(...p);
        setDrawn(onStage(line.current));
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
      {!brushing.shows && <BrushedRegion list={strokesAt(value, frame)} place={place} onStage={onStage} />}
      {drawn && (
        <polyline
          points={drawn.includes(' ', drawn.indexOf(' ') + 1) ? drawn : `${drawn} ${drawn}`}
          fill="none"
          stroke={tip.erase ? tokens.pit : brushing.shows ? css(tip.colour) : tokens.glaze}
          strokeWidth={2 * radius}
          strokeLinecap="round"
          strokeLinejoin="round"
          opacity={0.25 + 0.45 * tip.flow}
        />
      )}
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
            strokeDasharray={tip.erase ? '3 3' : undefined}
          />
          {tip.hardness < 1 && (
            <circle cx={x} cy={y} r={radius * tip.hardness} fill="none" stroke={tokens.bone} strokeWidth={0.5} opacity={0.6} />
          )}
        </>
      )}
    </svg>
  );
}

/** Where a brush says only where: its strokes lie over the picture while one brushes. */
function BrushedRegion({ list, place, onStage }: { list: readonly Stroke[]; place: StagePlace; onStage(p: readonly number[]): string }) {
  return (
    <g opacity={0.3}>
      {list.map((s, i) => (
        <polyline
          key={i}
          points={s.points.length > 2 ? onStage(s.points) : `${onStage(s.points)} ${onStage(s.points)}`}
          fill="none"
          stroke={s.tool === 'paint' ? tokens.glaze : tokens.pit}
          strokeWidth={s.size * place.zoom}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
    </g>
  );
}
