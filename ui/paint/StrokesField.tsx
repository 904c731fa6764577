'use client';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import { findStep } from '@/core/document';
import type { Brush, Stroke } from '@/core/paint';
import { BRUSHES, copies } from '@/core/paint';
import { BrushIcon } from '@/ui/theme/icons';
import { NumberField } from '../controls/NumberField';
import { useShot } from '../workbench/context';
import type { BrushTip } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { BRUSH_WORDS, brushingOf, changeTip, hasAmount, toggleBrush, usualAmount } from './brushing';
import { BrushSettings, FollowsChoice } from './BrushSettings';
import { StrokeList } from './StrokeList';

interface Props {
  value: readonly Stroke[];
  step: string;
  set(value: readonly Stroke[], gesture?: string): void;
}

/** Takes up a brush; the last one's source stays for the next that copies. */
function take(tool: Brush): void {
  const { brush } = view.get();
  changeTip({
    tool,
    ...(hasAmount(tool) && (!hasAmount(brush.tool) || usualAmount(tool) !== usualAmount(brush.tool)) && { amount: usualAmount(tool) }),
  });
}

/** The brush of a step: which one, its tip, and the strokes there are. */
export function StrokesField({ value: list, step, set }: Props) {
  const shot = useShot();
  const own = findStep(shot, step)!.step;
  const brush = brushingOf(own)!;
  const brushing = useView((s) => s.brushing);
  const tip = useView((s) => s.brush);
  const on = brushing?.step === brush.step && brushing.param === brush.param;
  const coloured = brush.shows === true;
  const brushes: readonly Brush[] = coloured ? BRUSHES : ['paint', 'erase'];
  return (
    <div className="samples">
      <div className="inline">
        <button
          className={`pill${on ? ' on' : ''}`}
          aria-pressed={on}
          title="Brush on the stage: a drag draws, Shift-drag sizes; Escape ends it"
          onClick={() => toggleBrush(shot, brush)}
        >
          <BrushIcon sx={{ fontSize: 13, mr: 0.5, verticalAlign: '-2px' }} />
          {on ? 'Brushing' : 'Brush on the stage'}
        </button>
      </div>
      {on && (
        <>
          <div className="inline wrap" role="group" aria-label="Brushes">
            {brushes.map((t) => (
              <button
                key={t}
                className={`pill${tip.tool === t ? ' on' : ''}`}
                aria-pressed={tip.tool === t}
                title={BRUSH_WORDS[t][1]}
                onClick={() => take(t)}
              >
                {coloured || t === 'erase' ? BRUSH_WORDS[t][0] : 'Region'}
              </button>
            ))}
          </div>
          <BrushSettings of="Brush" value={tip} coloured={coloured} change={(by) => changeTip(by as Partial<BrushTip>)}>
            {copies(tip.tool) && <Source tip={tip} connected={own.feeds.other !== undefined} />}
            <span>For</span>
            <Select
              size="small"
              value={tip.frames}
              inputProps={{ 'aria-label': 'Frames of new strokes' }}
              sx={{ gridColumn: 'span 2' }}
              onChange={(e) => changeTip({ frames: e.target.value })}
            >
              <MenuItem value="this">This frame</MenuItem>
              <MenuItem value="inOut">In to out</MenuItem>
              <MenuItem value="all">Every frame</MenuItem>
            </Select>
            <FollowsChoice label="New strokes follow" value={tip.follows} set={(follows) => changeTip({ follows, shift: null })} />
          </BrushSettings>
        </>
      )}
      <StrokeList list={list} coloured={coloured} set={set} />
    </div>
  );
}

/** From where a brush copies: of which picture, which frame. */
function Source({ tip, connected }: { tip: BrushTip; connected: boolean }) {
  const frame = useView((s) => s.frame);
  const place = tip.tool !== 'reveal';
  return (
    <>
      <span>From</span>
      <span className="dust" style={{ gridColumn: 'span 2' }}>
        {!place
          ? tip.from === null
            ? 'this frame'
            : `frame ${tip.from}`
          : tip.shift
            ? `${Math.round(tip.shift[0])}, ${Math.round(tip.shift[1])} px beside${tip.source && tip.source.frame !== frame ? `, frame ${tip.source.frame}` : ''}`
            : tip.source
              ? `frame ${tip.source.frame}, as chosen`
              : 'Alt-click the place on the stage'}
      </span>
      {!place && (
        <>
          <span>Of frame</span>
          <NumberField
            label="Reveal of frame"
            value={tip.from ?? frame}
            decimals={0}
            step={1}
            bare
            onChange={(n) => changeTip({ from: Math.round(n) })}
            onProblem={() => undefined}
          />
          <span />
        </>
      )}
      <span>Other</span>
      <span
        className="inline"
        style={{ gridColumn: 'span 2' }}
        title={connected ? 'Of the other picture' : 'Connect the other picture above first'}
      >
        <Switch
          size="small"
          checked={tip.other}
          disabled={!connected && !tip.other}
          slotProps={{ input: { 'aria-label': 'From the other picture' } }}
          onChange={(e) => changeTip({ other: e.target.checked })}
        />
        <span className="dust">{connected ? 'picture' : 'picture (not connected)'}</span>
      </span>
    </>
  );
}
