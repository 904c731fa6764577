'use client';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Slider from '@mui/material/Slider';
import type { ReactNode } from 'react';
import type { Brush } from '@/core/paint';
import { fromHex, hexOf } from '../controls/hex';
import { NumberField, useGesture } from '../controls/NumberField';
import { useShotPart } from '../workbench/context';
import { hasAmount, hasColour } from './brushing';

/** What a brush and a stroke have in common. */
export interface TipValues {
  tool: Brush;
  size: number;
  hardness: number;
  flow: number;
  colour: readonly number[];
  amount?: number | undefined;
}

interface Props {
  of: 'Brush' | 'Stroke';
  value: TipValues;
  coloured: boolean;
  change(by: Partial<TipValues>, gesture?: string): void;
  children?: ReactNode;
}

/** Size, hardness, flow and what else a brush has: of the one in hand, or of a stroke that is chosen. */
export function BrushSettings({ of, value, coloured, change, children }: Props) {
  const gesture = useGesture();
  const tip = (label: string, key: 'size' | 'hardness' | 'flow' | 'amount', min: number, max: number, step: number): ReactNode => {
    const v = value[key] ?? 1;
    return (
      <>
        <span>{label}</span>
        <Slider
          size="small"
          aria-label={`${of} ${label.toLowerCase()}`}
          min={min}
          max={max}
          step={step}
          value={v}
          onPointerDown={gesture.begin}
          onChange={(_, n) => change({ [key]: n as number }, gesture.id())}
          onChangeCommitted={gesture.end}
        />
        <NumberField
          label={`${of} ${label.toLowerCase()} value`}
          value={v}
          min={key === 'size' ? 0.5 : 0}
          max={key === 'size' ? 2000 : key === 'amount' ? 100 : 1}
          decimals={step >= 1 ? 0 : 2}
          step={step}
          bare
          onChange={(n, g) => change({ [key]: n }, g)}
          onProblem={() => undefined}
        />
      </>
    );
  };
  return (
    <div className="brush-tip">
      {tip('Size', 'size', 1, 200, 1)}
      {tip('Hardness', 'hardness', 0, 1, 0.01)}
      {tip('Flow', 'flow', 0, 1, 0.01)}
      {hasAmount(value.tool) &&
        tip(
          value.tool === 'dodge' || value.tool === 'burn' ? 'Stops' : 'Radius',
          'amount',
          0,
          value.tool === 'dodge' || value.tool === 'burn' ? 3 : 20,
          0.1,
        )}
      {coloured && hasColour(value.tool) && (
        <>
          <span>Colour</span>
          <input
            type="color"
            className="swatch"
            aria-label={`${of} colour`}
            title="Alt-click on the stage takes it from the picture"
            value={hexOf(value.colour)}
            style={{ background: hexOf(value.colour) }}
            onFocus={gesture.end}
            onChange={(e) => change({ colour: fromHex(e.target.value) }, gesture.id())}
          />
          <span />
        </>
      )}
      {children}
    </div>
  );
}

/** The reading that strokes go with. */
export function FollowsChoice({ label, value, set }: { label: string; value: string | null; set(v: string | null): void }) {
  const readings = useShotPart('readings');
  return (
    <>
      <span>Follows</span>
      <Select
        size="small"
        displayEmpty
        value={value ?? ''}
        inputProps={{ 'aria-label': label }}
        sx={{ gridColumn: 'span 2' }}
        onChange={(e) => set(e.target.value === '' ? null : e.target.value)}
      >
        <MenuItem value="">Nothing</MenuItem>
        {readings.map((r) => (
          <MenuItem key={r.id} value={r.id}>
            {r.name}
          </MenuItem>
        ))}
        {value && !readings.some((r) => r.id === value) && <MenuItem value={value}>A reading that is gone</MenuItem>}
      </Select>
    </>
  );
}
