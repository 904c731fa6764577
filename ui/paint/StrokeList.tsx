'use client';
import IconButton from '@mui/material/IconButton';
import Slider from '@mui/material/Slider';
import type { Stroke } from '@/core/paint';
import { memo, useRef, useState } from 'react';
import type { Shot } from '@/core/document';
import { CloseIcon, VisibilityIcon, VisibilityOffIcon } from '@/ui/theme/icons';
import { hexOf } from '../controls/hex';
import { NumberField, useGesture } from '../controls/NumberField';
import { useShotPart } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { BRUSH_WORDS, hasColour } from './brushing';
import { BrushSettings, FollowsChoice } from './BrushSettings';

interface Props {
  list: readonly Stroke[];
  coloured: boolean;
  set(list: readonly Stroke[], gesture?: string): void;
}

/** Rows that are listed at most: of two thousand strokes nobody reads more. */
const MOST = 60;

const nameOf = (s: Stroke, coloured: boolean): string =>
  s.name ?? (coloured ? BRUSH_WORDS[s.tool][0] : s.tool === 'erase' ? 'Erased' : 'Region');

/** The strokes of the frame, the last one first, with the span each is there for; the chosen one can be changed in everything. */
export function StrokeList({ list, coloured, set }: Props) {
  const frame = useView((s) => s.frame);
  const chosen = useView((s) => s.stroke);
  const gesture = useGesture();
  const range = useShotPart('range');
  const { first, last } = range;
  const here = list.map((s, i) => ({ s, i })).filter(({ s, i }) => (s.first <= frame && frame <= s.last) || i === chosen);
  const shown = [...here].reverse().slice(0, MOST);
  const change = (i: number, by: Partial<Stroke>, gesture?: string): void =>
    set(
      list.map((s, k) => {
        if (k !== i) return s;
        const next = { ...s, ...by };
        for (const key of Object.keys(next) as (keyof Stroke)[]) if (next[key] === undefined) delete next[key];
        return next;
      }),
      gesture,
    );
  // The rows keep what they call: of sixty only those that change are drawn again.
  const now = useRef({ change, list, set });
  now.current = { change, list, set };
  const [acts] = useState<Acts>(() => ({
    change: (i, by) => now.current.change(i, by),
    remove: (s) => {
      view.set({ stroke: null });
      now.current.set(now.current.list.filter((o) => o !== s));
    },
  }));
  const inHand = chosen === null ? undefined : list[chosen];
  return (
    <>
      {list.length > 0 && (
        <div className="shape-list" role="list" aria-label="Strokes">
          {shown.map(({ s, i }) => (
            <StrokeRow key={i} stroke={s} index={i} chosen={i === chosen} coloured={coloured} range={range} acts={acts} />
          ))}
        </div>
      )}
      <small className="dust">
        {list.length === 0
          ? 'Nothing is brushed yet.'
          : `${here.length} here, ${list.length} in all${here.length > MOST ? `; the last ${MOST} are listed` : ''}`}
      </small>
      {inHand && chosen !== null && (
        <div className="stroke-controls" data-testid="chosen stroke">
          <div className="group">{`${nameOf(inHand, coloured)}, stroke ${chosen + 1}`}</div>
          <BrushSettings of="Stroke" value={inHand} coloured={coloured} change={(by, g) => change(chosen, by as Partial<Stroke>, g)}>
            <span>Frames</span>
            <Slider
              size="small"
              aria-label="Stroke frames"
              min={Math.min(first, inHand.first)}
              max={Math.max(last, inHand.last)}
              value={[inHand.first, inHand.last]}
              valueLabelDisplay="auto"
              onPointerDown={gesture.begin}
              onChange={(_, v) => change(chosen, { first: (v as number[])[0]!, last: (v as number[])[1]! }, gesture.id())}
              onChangeCommitted={gesture.end}
            />
            <span className="mono">{inHand.first === inHand.last ? inHand.first : `${inHand.first}–${inHand.last}`}</span>
            <FollowsChoice
              label="Stroke follows"
              value={inHand.follows?.[0] ?? null}
              set={(id) => change(chosen, { follows: id ? [id] : undefined! })}
            />
            {inHand.shift && (
              <>
                <span>From</span>
                <div className="inline" style={{ gridColumn: 'span 2' }}>
                  {inHand.shift.map((v, k) => (
                    <NumberField
                      key={k}
                      label={`Stroke from ${'xy'[k]}`}
                      value={v}
                      decimals={1}
                      step={1}
                      bare
                      onChange={(n, g) => change(chosen, { shift: inHand.shift!.map((o, j) => (j === k ? n : o)) }, g)}
                      onProblem={() => undefined}
                    />
                  ))}
                </div>
              </>
            )}
            {inHand.from !== undefined && (
              <>
                <span>Of frame</span>
                <NumberField
                  label="Stroke of frame"
                  value={inHand.from}
                  decimals={0}
                  step={1}
                  bare
                  onChange={(n, g) => change(chosen, { from: Math.round(n) }, g)}
                  onProblem={() => undefined}
                />
                <span />
              </>
            )}
          </BrushSettings>
        </div>
      )}
    </>
  );
}

interface Acts {
  change(i: number, by: Partial<Stroke>): void;
  remove(s: Stroke): void;
}

interface RowProps {
  stroke: Stroke;
  index: number;
  chosen: boolean;
  coloured: boolean;
  range: Shot['range'];
  acts: Acts;
}

const ICON = { fontSize: 14 };

/** One stroke of the list, with the span of frames that it is there for. */
const StrokeRow = memo(function StrokeRow({ stroke: s, index: i, chosen, coloured, range: { first, last }, acts }: RowProps) {
  const share = (f: number): number => (100 * (f - first)) / Math.max(1, last + 1 - first);
  const paints = coloured && hasColour(s.tool);
  return (
    <div
      role="listitem"
      aria-label={`Stroke ${i + 1}`}
      data-testid="stroke"
      className={`shape-row${chosen ? ' chosen' : ''}${s.off ? ' off' : ''}`}
      onClick={() => view.set({ stroke: chosen ? null : i })}
    >
      <span className="swatch" style={{ background: paints ? hexOf(s.colour) : 'transparent', width: 12, height: 12 }} />
      <span className="ellipsis" style={{ width: 62 }}>
        {nameOf(s, coloured)}
      </span>
      <span className="grow stroke-span" title={s.first === s.last ? `Frame ${s.first}` : `Frames ${s.first}–${s.last}`}>
        <i style={{ left: `${share(s.first)}%`, width: `${Math.max(2, share(s.last + 1) - share(s.first))}%` }} />
      </span>
      {s.follows && (
        <span className="dust" title="Follows a reading">
          ↝
        </span>
      )}
      <IconButton
        aria-label={`${s.off ? 'Show' : 'Hide'} stroke ${i + 1}`}
        onClick={(e) => {
          e.stopPropagation();
          acts.change(i, { off: s.off ? undefined! : true });
        }}
      >
        {s.off ? <VisibilityOffIcon sx={ICON} /> : <VisibilityIcon sx={ICON} />}
      </IconButton>
      <IconButton
        aria-label={`Remove stroke ${i + 1}`}
        onClick={(e) => {
          e.stopPropagation();
          acts.remove(s);
        }}
      >
        <CloseIcon sx={ICON} />
      </IconButton>
    </div>
  );
});
