'use client';
import BrushIcon from '@mui/icons-material/Brush';
import CloseIcon from '@mui/icons-material/Close';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Slider from '@mui/material/Slider';
import { findStep } from '@/core/document/params';
import type { Stroke } from '@/core/paint/strokes';
import { brushingOf, toggleBrush } from '../workbench/brush';
import { useShot } from '../workbench/context';
import type { BrushTip } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { fromHex, hexOf } from './hex';

interface Props {
  value: readonly Stroke[];
  step: string;
  set(value: readonly Stroke[]): void;
}

const change = (by: Partial<BrushTip>): void => view.set({ brush: { ...view.get().brush, ...by } });

const spanOf = ({ first, last }: Stroke): string => (first === last ? `frame ${first}` : `frames ${first}–${last}`);

/** The brush of a step: on or off, its tip, and the strokes there are at this frame. */
export function StrokesField({ value: list, step, set }: Props) {
  const shot = useShot();
  const brush = brushingOf(findStep(shot, step)!.step)!;
  const brushing = useView((s) => s.brushing);
  const tip = useView((s) => s.brush);
  const frame = useView((s) => s.frame);
  const on = brushing?.step === brush.step && brushing.param === brush.param;
  const coloured = brush.shows;
  const here = list.filter((s) => s.first <= frame && frame <= s.last);
  return (
    <div className="samples">
      <div className="inline">
        <button
          className={`pill${on ? ' on' : ''}`}
          aria-pressed={on}
          title="Brush on the stage: a drag draws, Shift-drag sizes, Alt-click takes a colour; Escape ends it"
          onClick={() => toggleBrush(shot, brush)}
        >
          <BrushIcon sx={{ fontSize: 13, mr: 0.5, verticalAlign: '-2px' }} />
          {on ? 'Brushing' : 'Brush on the stage'}
        </button>
        {on && (
          <button className={`pill${tip.erase ? ' on' : ''}`} aria-pressed={tip.erase} onClick={() => change({ erase: !tip.erase })}>
            Erase
          </button>
        )}
      </div>
      {on && (
        <div className="brush-tip">
          <Tip label="Size" value={tip.size} min={1} max={200} step={1} onChange={(size) => change({ size })} />
          <Tip label="Hardness" value={tip.hardness} min={0} max={1} step={0.01} onChange={(hardness) => change({ hardness })} />
          <Tip label="Flow" value={tip.flow} min={0} max={1} step={0.01} onChange={(flow) => change({ flow })} />
          {coloured && (
            <>
              <span>Colour</span>
              <input
                type="color"
                className="swatch"
                aria-label="Brush colour"
                title="Alt-click on the stage takes it from the picture"
                value={hexOf(tip.colour)}
                style={{ background: hexOf(tip.colour) }}
                onChange={(e) => change({ colour: fromHex(e.target.value) as [number, number, number] })}
              />
              <span />
            </>
          )}
          <span>For</span>
          <Select
            size="small"
            value={tip.frames}
            inputProps={{ 'aria-label': 'Frames of new strokes' }}
            sx={{ gridColumn: 'span 2' }}
            onChange={(e) => change({ frames: e.target.value })}
          >
            <MenuItem value="this">This frame</MenuItem>
            <MenuItem value="inOut">In to out</MenuItem>
            <MenuItem value="all">Every frame</MenuItem>
          </Select>
        </div>
      )}
      {here.map((s, i) => (
        <div key={i} className="sample" data-testid="stroke">
          <span className="swatch" style={{ background: coloured && s.tool === 'paint' ? hexOf(s.colour) : 'transparent' }} />
          <span className="dust">
            {s.tool === 'erase' ? 'erased' : 'stroke'} · {s.size} px · {spanOf(s)}
          </span>
          <span className="grow" />
          <IconButton aria-label={`Remove stroke ${i + 1}`} onClick={() => set(list.filter((o) => o !== s))}>
            <CloseIcon sx={{ fontSize: 14 }} />
          </IconButton>
        </div>
      ))}
      <small className="dust">{list.length === 0 ? 'Nothing is brushed yet.' : `${here.length} here, ${list.length} in all`}</small>
    </div>
  );
}

function Tip(props: { label: string; value: number; min: number; max: number; step: number; onChange(v: number): void }) {
  const { label, value, min, max, step, onChange } = props;
  return (
    <>
      <span>{label}</span>
      <Slider
        size="small"
        aria-label={`Brush ${label.toLowerCase()}`}
        min={min}
        max={max}
        step={step}
        value={value}
        onChange={(_, v) => onChange(v as number)}
      />
      <span className="mono">{step === 1 ? value : value.toFixed(2)}</span>
    </>
  );
}
