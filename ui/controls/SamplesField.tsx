'use client';
import IconButton from '@mui/material/IconButton';
import { SRGB } from '@/core/colour';
import type { ColourSample } from '@/core/keying';
import { CloseIcon } from '@/ui/theme/icons';
import { useView, view } from '../workbench/state';

interface Props {
  value: readonly ColourSample[];
  step: string;
  name: string;
  set(value: readonly ColourSample[]): void;
}

const KINDS: readonly { of: ColourSample['of']; label: string }[] = [
  { of: 'screen', label: 'Screen' },
  { of: 'subject', label: 'Subject' },
];

/** The middle of a sample's colours, as a colour of the page. */
function middle({ colours }: ColourSample): string {
  const of = (c: number): number => {
    const list = colours.filter((_, i) => i % 3 === c).sort((a, b) => a - b);
    return Math.round(255 * SRGB.encode(Math.min(1, Math.max(0, list[list.length >> 1] ?? 0))));
  };
  return `rgb(${of(0)} ${of(1)} ${of(2)})`;
}

/** Boxes of the picture that were marked, each with its frame; a click goes there. More are dragged on the stage. */
export function SamplesField({ value: list, step, name, set }: Props) {
  const picking = useView((s) => s.picking);
  return (
    <div className="samples">
      <div className="inline">
        {KINDS.map(({ of, label }) => {
          const on = picking?.step === step && picking.param === name && picking.of === of;
          return (
            <button
              key={of}
              className={`pill${on ? ' on' : ''}`}
              aria-pressed={on}
              aria-label={`Mark ${of}`}
              title="Drag boxes on the stage, as many as needed and on any frame; Escape ends it"
              onClick={() => view.set({ picking: on ? null : { step, param: name, of } })}
            >
              {label}
            </button>
          );
        })}
      </div>
      {list.map((s, i) => (
        <div key={i} className="sample" data-testid={`sample ${s.of} ${s.frame}`}>
          <span className="swatch" style={{ background: middle(s) }} />
          <button
            className="pill"
            onClick={() => view.set({ frame: s.frame, playing: false, probe: s.box as [number, number, number, number] })}
          >
            {s.of} · {s.frame}
          </button>
          <span className="grow" />
          <IconButton aria-label={`Remove the ${s.of} sample of frame ${s.frame}`} onClick={() => set(list.filter((o) => o !== s))}>
            <CloseIcon sx={{ fontSize: 14 }} />
          </IconButton>
        </div>
      ))}
      {list.length === 0 && <small className="dust">None yet: mark some screen, then some subject.</small>}
    </div>
  );
}
