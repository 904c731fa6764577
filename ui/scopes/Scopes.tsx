'use client';
import { useEffect, useRef, useState } from 'react';
import type { Rect } from '@/core/geometry';
import { rect } from '@/core/geometry';
import type { Histogram } from '@/core/scopes';
import { COLUMNS, LEVELS, SIDE, chromaOf } from '@/core/scopes';
import type { ScopeAxis } from '@/engine/browser';
import { useMeasured, useOnStage } from '../stage/on-stage';
import { useView, view } from '../workbench/state';

const TRACE = [
  [236, 106, 94],
  [126, 190, 130],
  [110, 150, 226],
] as const;
const BONE = [233, 227, 216] as const;

/** The viewed picture as figures: how often each value occurs, where it stands, and which hues there are. */
export function Scopes() {
  const [axis, setAxis] = useState<ScopeAxis>('display');
  const [parade, setParade] = useState(true);
  const probe = useView((s) => s.probe);
  const scale = useOnStage((s) => s.scale);
  const rendered = useOnStage((s) => s.rendered);
  const box: Rect | null = probe && rect(...(probe.map((v) => Math.round(v * scale)) as [number, number, number, number]));
  const key = `${axis} ${parade} ${JSON.stringify(box)}`;
  const histogram = useMeasured((w, p) => w.histogram({ pixels: p.pixels, region: p.region }, axis, box), key);
  const waveform = useMeasured((w, p) => w.waveform({ pixels: p.pixels, region: p.region }, axis, parade, box), key);
  const vector = useMeasured((w, p) => w.vectorscope({ pixels: p.pixels, region: p.region }, axis, box), key);
  if (!rendered) return <div className="board empty">Scopes measure the picture on the stage; there is none yet.</div>;
  return (
    <div className="board scopes" role="region" aria-label="Scopes">
      <div className="scope-bar">
        {(['display', 'light'] as const).map((a) => (
          <button key={a} className={`pill${axis === a ? ' on' : ''}`} aria-pressed={axis === a} onClick={() => setAxis(a)}>
            {a === 'display' ? 'Display codes' : 'Scene light'}
          </button>
        ))}
        <span className="sep" />
        {[true, false].map((p) => (
          <button key={String(p)} className={`pill${parade === p ? ' on' : ''}`} aria-pressed={parade === p} onClick={() => setParade(p)}>
            {p ? 'RGB parade' : 'Luma'}
          </button>
        ))}
        <span className="sep" />
        <span className="dust">{box ? 'of the probed box' : 'of the whole picture'}</span>
        {box && (
          <button className="pill" onClick={() => view.set({ probe: null })}>
            Whole picture
          </button>
        )}
        {histogram && <OutOfRange h={histogram} />}
      </div>
      <div className="scope-row">
        <ScopeCanvas
          label="Waveform"
          width={parade ? 3 * COLUMNS : COLUMNS}
          height={LEVELS}
          draw={(c) => waveform && drawWaveform(c, waveform)}
          of={waveform}
          scale="up"
          unit={axis}
          wide
        />
        <ScopeCanvas
          label="Histogram"
          width={LEVELS}
          height={128}
          draw={(c) => histogram && drawHistogram(c, histogram)}
          of={histogram}
          scale="along"
          unit={axis}
        />
        <ScopeCanvas label="Vectorscope" width={SIDE} height={SIDE} draw={(c) => vector && drawVectorscope(c, vector)} of={vector} square />
      </div>
    </div>
  );
}

function OutOfRange({ h }: { h: Histogram }) {
  const share = (n: number): string =>
    n === 0 ? '0' : `${n} (${((100 * n) / Math.max(1, h.pixels)).toFixed(n / h.pixels < 0.001 ? 3 : 1)} %)`;
  return (
    <span className="mono dust" data-testid="out of range">
      below 0: R {share(h.below[0]!)} G {share(h.below[1]!)} B {share(h.below[2]!)} · above 1: R {share(h.above[0]!)} G {share(h.above[1]!)}{' '}
      B {share(h.above[2]!)}
      {h.notFinite > 0 && <b className="doubt"> · not finite: {h.notFinite}</b>}
    </span>
  );
}

interface ScopeCanvasProps {
  label: string;
  width: number;
  height: number;
  /** Drawn again when this changes. */
  of: unknown;
  /** Along which side the values are written, and of what they are. */
  scale?: 'up' | 'along';
  unit?: ScopeAxis;
  wide?: boolean;
  square?: boolean;
  draw(canvas: HTMLCanvasElement): void;
}

/** Quarters of the range: code values in percent, light as it is. */
const QUARTERS = { display: ['0', '25', '50', '75', '100 %'], light: ['0', '0.25', '0.5', '0.75', '1'] } as const;

function ScopeCanvas({ label, width, height, of, scale, unit = 'display', wide, square, draw }: ScopeCanvasProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const latest = useRef(draw);
  useEffect(() => {
    latest.current = draw;
  });
  useEffect(() => {
    if (canvas.current) latest.current(canvas.current);
  }, [of, width]);
  return (
    <figure className={`scope${wide ? ' wide' : ''}${square ? ' square' : ''}`}>
      <figcaption>{label}</figcaption>
      <div className={`scope-field${scale ? ` ${scale}` : ''}`}>
        {scale && (
          <div className="scope-scale" aria-hidden>
            {QUARTERS[unit].map((q) => (
              <span key={q}>{q}</span>
            ))}
          </div>
        )}
        <canvas ref={canvas} width={width} height={height} role="img" aria-label={label} />
      </div>
    </figure>
  );
}

/** How bright a count is drawn: by the root of its share, so that rare values are seen. */
const glow = (count: number, most: number): number => (count === 0 ? 0 : Math.min(1, 0.12 + 0.88 * (count / most) ** 0.4));

function drawWaveform(canvas: HTMLCanvasElement, traces: readonly Uint32Array[]): void {
  const context = canvas.getContext('2d')!;
  const image = context.createImageData(canvas.width, LEVELS);
  traces.forEach((trace, k) => {
    const colour = traces.length === 3 ? TRACE[k]! : BONE;
    let most = 1;
    for (const v of trace) if (v > most) most = v;
    for (let level = 0; level < LEVELS; level++) {
      for (let x = 0; x < COLUMNS; x++) {
        const g = glow(trace[level * COLUMNS + x]!, most);
        const o = 4 * ((LEVELS - 1 - level) * canvas.width + k * COLUMNS + x);
        for (let c = 0; c < 3; c++) image.data[o + c] = 22 + g * (colour[c]! - 22);
        image.data[o + 3] = 255;
      }
    }
  });
  context.putImageData(image, 0, 0);
  context.strokeStyle = 'rgb(233 227 216 / 16%)';
  context.beginPath();
  for (let q = 0; q <= 4; q++) {
    const y = Math.min(LEVELS - 0.5, Math.max(0.5, LEVELS * (1 - q / 4)));
    context.moveTo(0, y);
    context.lineTo(canvas.width, y);
  }
  context.stroke();
}

function drawHistogram(canvas: HTMLCanvasElement, h: Histogram): void {
  const context = canvas.getContext('2d')!;
  const { width, height } = canvas;
  context.fillStyle = 'rgb(22 22 22)';
  context.fillRect(0, 0, width, height);
  // The fullest level of all, but for the two ends, where what is cut piles up.
  let most = 1;
  for (const counts of h.counts) for (let i = 1; i < LEVELS - 1; i++) most = Math.max(most, counts[i]!);
  context.globalCompositeOperation = 'lighter';
  h.counts.forEach((counts, k) => {
    const [r, g, b] = k < 3 ? TRACE[k]! : BONE;
    context.fillStyle = `rgb(${r} ${g} ${b} / ${k < 3 ? 55 : 0}%)`;
    context.strokeStyle = `rgb(${r} ${g} ${b} / ${k < 3 ? 90 : 70}%)`;
    context.beginPath();
    context.moveTo(0, height);
    counts.forEach((v, i) => context.lineTo(i + 0.5, height - Math.min(1, v / most) ** 0.6 * (height - 2)));
    context.lineTo(width, height);
    context.fill();
    context.stroke();
  });
  context.globalCompositeOperation = 'source-over';
}

function drawVectorscope(canvas: HTMLCanvasElement, cells: Uint32Array): void {
  const context = canvas.getContext('2d')!;
  const image = context.createImageData(SIDE, SIDE);
  let most = 1;
  for (const v of cells) if (v > most) most = v;
  for (let i = 0; i < cells.length; i++) {
    const g = glow(cells[i]!, most);
    for (let c = 0; c < 3; c++) image.data[4 * i + c] = 22 + g * (BONE[c]! - 22);
    image.data[4 * i + 3] = 255;
  }
  context.putImageData(image, 0, 0);
  context.strokeStyle = 'rgb(233 227 216 / 18%)';
  context.beginPath();
  context.moveTo(SIDE / 2, 0);
  context.lineTo(SIDE / 2, SIDE);
  context.moveTo(0, SIDE / 2);
  context.lineTo(SIDE, SIDE / 2);
  context.stroke();
  context.font = '11px "IBM Plex Mono"';
  context.fillStyle = 'rgb(233 227 216 / 75%)';
  // Bars of three quarters of full colour.
  for (const [name, r, g, b] of [
    ['R', 0.75, 0, 0],
    ['Y', 0.75, 0.75, 0],
    ['G', 0, 0.75, 0],
    ['C', 0, 0.75, 0.75],
    ['B', 0, 0, 0.75],
    ['M', 0.75, 0, 0.75],
  ] as const) {
    const [x, y] = chromaOf(r, g, b);
    const [px, py] = [(x + 0.5) * SIDE, (0.5 - y) * SIDE];
    context.strokeRect(px - 5, py - 5, 10, 10);
    context.fillText(name, px + 8, py + 4);
  }
}
