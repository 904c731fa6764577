'use client';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { memo, useState } from 'react';
import { SPACES } from '@/core/colour';
import { isPicture } from '@/core/document';
import { passesOf } from '@/core/layers';
import { useShallow } from 'zustand/react/shallow';
import { ColorizeIcon } from '@/ui/theme/icons';
import { fromHex, hexOf } from '../controls/hex';
import { ComparePanel } from './ComparePanel';
import { seenTap, tapName, useShotPart, useShotState } from '../workbench/context';
import type { Backing, ChannelView, ViewTransform } from '../workbench/state';
import { useView, view } from '../workbench/state';

const CHANNELS: readonly { value: ChannelView; label: string; tip: string }[] = [
  { value: 'colour', label: 'Colour', tip: 'Colour over the backing' },
  { value: 'R', label: 'R', tip: 'Red (R)' },
  { value: 'G', label: 'G', tip: 'Green (G)' },
  { value: 'B', label: 'B', tip: 'Blue' },
  { value: 'A', label: 'A', tip: 'Alpha: the matte (A)' },
  { value: 'luma', label: 'L', tip: 'Luma (L)' },
  {
    value: 'audit',
    label: 'Audit',
    tip: 'Matte audit: empty is black, solid is bone, partial is green-grey; striped where alpha is under 0 or over 1',
  },
  { value: 'overlay', label: 'Overlay', tip: 'Matte overlay: clay lies where the picture is not covered' },
];
const SAMPLES = [1, 3, 5, 11, 25] as const;

const BACKINGS: readonly { value: Backing; label: string }[] = [
  { value: 'checker', label: 'checker' },
  { value: 'black', label: 'black' },
  { value: 'white', label: 'white' },
  { value: 'grey', label: 'mid grey' },
  { value: 'thirds', label: 'three at once' },
];

const TRANSFORMS: readonly { value: ViewTransform; label: string; help: string }[] = [
  { value: 'sRGB', label: 'sRGB', help: 'a computer display' },
  { value: 'Rec.709', label: 'Rec.709', help: 'a video display, gamma 2.4' },
  { value: 'P3', label: 'P3', help: 'a wide display' },
  { value: 'soft', label: 'Soft', help: 'sRGB with highlights rolled off, so that they show' },
  { value: 'linear', label: 'Linear', help: 'values as they are, for data' },
];

type ShownKey = 'filmstrip' | 'guides' | 'burnIn';
const SHOWN: readonly { key: ShownKey; label: string }[] = [
  { key: 'filmstrip', label: 'Filmstrip' },
  { key: 'guides', label: 'Safe areas and centre' },
  { key: 'burnIn', label: 'Shot, lane and frame written in' },
];

/** What is seen, and how; nothing here changes the picture. Drawn again for other channels, not for another frame of the same ones. */
export const PictureBar = memo(Bar, (a, b) => a.zoom === b.zoom && a.available.join() === b.available.join());

function Bar({ available, zoom }: { available: readonly string[]; zoom: number }) {
  const sources = useShotPart('sources');
  const seen = useView((s) => s.seen);
  // Names alone: an edit of a step is nothing that is shown here.
  const looked = useView((s) => s.looked);
  const label = useShotState(({ shot }) => {
    const source = shot.sources.find((s) => s.id === looked && isPicture(s));
    if (source) return `source ${source.name}`;
    const tap = seenTap(shot, seen);
    return tap ? tapName(shot, tap) : 'nothing';
  });
  const lanes = useShotState(useShallow(({ shot }) => shot.lanes.flatMap((l) => [l.id, l.name])));
  const layer = useView((s) => s.layer);
  const channel = useView((s) => s.channel);
  const exposure = useView((s) => s.exposure);
  const gamma = useView((s) => s.gamma);
  const transform = useView((s) => s.transform);
  const backing = useView((s) => s.backing);
  const backingColour = useView((s) => s.backingColour);
  const scale = useView((s) => s.scale);
  const picking = useView((s) => s.picking);
  const area = useView((s) => s.area);
  const sampleSize = useView((s) => s.sampleSize);
  const shown = useView(useShallow(({ filmstrip, guides, burnIn, probing }) => ({ filmstrip, guides, burnIn, probing })));
  const tables = sources.filter((s) => s.kind === 'lut');
  const backings = [
    ...BACKINGS,
    { value: 'colour' as const, label: 'a colour' },
    ...lanes.flatMap((id, i) => (i % 2 ? [] : [{ value: `lane ${id}` as const, label: lanes[i + 1]! }])),
  ];
  const transforms = [
    ...TRANSFORMS,
    ...tables.map((s) => ({
      value: `lut ${s.id}` as const,
      label: s.name,
      help: `a colour table that takes ${SPACES[s.colourSpace].title}`,
    })),
  ];
  const layers = passesOf(available).map((p) => p.name);
  const spill = layer === 'spill';
  return (
    <div className="picturebar" role="toolbar" aria-label="Picture bar">
      <Choice
        title="What is seen"
        prefix=""
        label={label}
        value={seen ? 'other' : 'result'}
        options={[{ value: 'result', label: 'Result' }, ...lanes.flatMap((id, i) => (i % 2 ? [] : [{ value: id, label: lanes[i + 1]! }]))]}
        onChoose={(v) => view.set({ seen: v === 'result' ? null : { lane: v }, layer: '' })}
      />
      {layers.length > 1 && (
        <Choice
          title="Layer"
          prefix="Layer"
          label={layer || 'main'}
          value={layer}
          options={layers.map((l) => ({ value: l, label: l || 'main' }))}
          onChoose={(v) => view.set({ layer: v })}
        />
      )}
      <span className="sep" />
      {CHANNELS.map((c) => (
        <Tooltip key={c.value} title={c.tip}>
          <button
            className={`pill${channel === c.value ? ' on' : ''}`}
            aria-pressed={channel === c.value}
            onClick={() => view.set({ channel: c.value })}
          >
            {c.label}
          </button>
        </Tooltip>
      ))}
      {available.includes('spill.A') && (
        <Tooltip title="The spill that was taken out, as a matte; a click shows the picture again">
          <button
            className={`pill${spill ? ' on' : ''}`}
            aria-pressed={spill}
            onClick={() => view.set(spill ? { layer: '', channel: 'colour' } : { layer: 'spill', channel: 'A' })}
          >
            Spill
          </button>
        </Tooltip>
      )}
      <span className="sep" />
      <Tooltip title="Viewing exposure in stops: [ and ] by a half, \ or a double-click resets. It never touches the picture.">
        <button
          className={`pill${exposure !== 0 ? ' mod' : ''}`}
          onDoubleClick={() => view.set({ exposure: 0 })}
          onWheel={(e) => view.set({ exposure: exposure - Math.sign(e.deltaY) / 2 })}
        >
          <i>EV</i>
          <b className="mono">{(exposure < 0 ? '−' : '+') + Math.abs(exposure).toFixed(1)}</b>
        </button>
      </Tooltip>
      <Tooltip title="Viewing gamma: turn the wheel over it; a double-click resets. It never touches the picture.">
        <button
          className={`pill${gamma !== 1 ? ' mod' : ''}`}
          onDoubleClick={() => view.set({ gamma: 1 })}
          onWheel={(e) => view.set({ gamma: Math.min(4, Math.max(0.2, Number((gamma - Math.sign(e.deltaY) / 10).toFixed(1)))) })}
        >
          <i>γ</i>
          <b className="mono">{gamma.toFixed(1)}</b>
        </button>
      </Tooltip>
      <Choice
        title="How light becomes display values"
        prefix=""
        label={transforms.find((t) => t.value === transform)?.label ?? 'sRGB'}
        value={transform}
        options={transforms.map((t) => ({ value: t.value, label: `${t.label}: ${t.help}` }))}
        onChoose={(v) => view.set({ transform: v as ViewTransform })}
      />
      <Choice
        title="What lies behind transparent pixels"
        prefix="on"
        label={backings.find((b) => b.value === backing)?.label ?? 'checker'}
        value={backing}
        options={backings.map((b) => (b.value === 'thirds' ? { ...b, label: 'three at once: black, white, grey' } : b))}
        onChoose={(v) => view.set({ backing: v as Backing })}
      />
      {backing === 'colour' && (
        <input
          type="color"
          className="swatch"
          aria-label="Backing colour"
          value={hexOf(backingColour)}
          onChange={(e) => view.set({ backingColour: fromHex(e.target.value) })}
        />
      )}
      <ComparePanel />
      <Choice
        title="Shown with the picture"
        prefix=""
        label="Show"
        value=""
        options={[
          ...SHOWN.map((s) => ({ value: s.key, label: `${shown[s.key] ? '✓ ' : '\u2003'}${s.label}` })),
          { value: 'area', label: area ? '✓ One area only: work out the whole frame' : '\u2003One area only: drag a box' },
        ]}
        onChoose={(key) =>
          key === 'area' ? view.set({ areaing: !area, area: null, probing: false }) : view.set({ [key]: !shown[key as ShownKey] })
        }
      />
      <Tooltip title="Probe: click or drag a box on the picture for its figures (P)">
        <button
          className={`pill${shown.probing ? ' on' : ''}`}
          aria-pressed={shown.probing}
          onClick={() => view.set({ probing: !shown.probing, probe: shown.probing ? null : view.get().probe })}
        >
          Probe
        </button>
      </Tooltip>
      <span className="grow" />
      {area && (
        <Tooltip describeChild title="Only this area is worked out: a click works out the whole frame again">
          <button className="pill on" onClick={() => view.set({ area: null })}>
            Area ×
          </button>
        </Tooltip>
      )}
      {picking && (
        <>
          <Choice
            title="Pixels that a click picks from"
            prefix=""
            label={`${sampleSize}×${sampleSize}`}
            value={String(sampleSize)}
            options={SAMPLES.map((n) => ({ value: String(n), label: n === 1 ? 'One pixel' : `The mean of ${n}×${n} pixels` }))}
            onChoose={(n) => view.set({ sampleSize: SAMPLES.find((s) => String(s) === n) ?? 5 })}
          />
          <button className="pill on" onClick={() => view.set({ picking: null })}>
            <ColorizeIcon fontSize="inherit" /> Picking · Esc
          </button>
        </>
      )}
      <Choice
        title="Computed size"
        prefix=""
        label={scale === 1 ? '×1' : scale === 0.5 ? '×½' : '×¼'}
        value={String(scale)}
        options={[
          { value: '1', label: 'Full size' },
          { value: '0.5', label: 'Half: a quarter of the pixels' },
          { value: '0.25', label: 'Quarter: a sixteenth of the pixels' },
        ]}
        onChoose={(v) => view.set({ scale: Number(v) as 1 | 0.5 | 0.25 })}
      />
      <Choice
        title="Zoom"
        prefix=""
        label={`${Math.round(zoom * 100)} %`}
        value=""
        options={[
          { value: 'fit', label: 'Fit (F)' },
          ...[0.25, 0.5, 1, 2, 4, 8].map((z) => ({ value: String(z), label: `${z * 100} %${z === 1 ? ' (Z)' : ''}` })),
        ]}
        onChoose={(v) => view.set({ zoom: v === 'fit' ? 'fit' : Number(v), centre: [0, 0] })}
      />
    </div>
  );
}

interface ChoiceProps {
  title: string;
  prefix: string;
  label: string;
  value: string;
  options: readonly { value: string; label: string }[];
  onChoose(value: string): void;
}

function Choice({ title, prefix, label, value, options, onChoose }: ChoiceProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Tooltip title={title}>
        <button className="pill" aria-haspopup="menu" aria-label={`${title}: ${label}`} onClick={(e) => setAnchor(e.currentTarget)}>
          {prefix && <i>{prefix}</i>}
          <b>{label}</b>
        </button>
      </Tooltip>
      {anchor && (
        <Menu anchorEl={anchor} open onClose={() => setAnchor(null)}>
          {options.map((o) => (
            <MenuItem
              key={o.value}
              selected={o.value === value}
              onClick={() => {
                onChoose(o.value);
                setAnchor(null);
              }}
            >
              {o.label}
            </MenuItem>
          ))}
        </Menu>
      )}
    </>
  );
}
