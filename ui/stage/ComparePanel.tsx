'use client';
import Button from '@mui/material/Button';
import Popover from '@mui/material/Popover';
import Slider from '@mui/material/Slider';
import Tooltip from '@mui/material/Tooltip';
import { useState } from 'react';
import { useBench } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { MODES, pinSeen, recallPin, setCompare } from './compare';

/** The compare pill of the picture bar, with the four pins and the ways of comparing. */
export function ComparePanel() {
  const bench = useBench();
  const pins = useView((s) => s.pins);
  const compare = useView((s) => s.compare);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const mode = MODES.find((m) => m.value === compare.mode)!;
  const choose = (value: (typeof MODES)[number]['value']): void => {
    // Without a pin there is nothing to compare with: what is seen now becomes the first one.
    if (value !== 'off' && !pins[compare.pin]) {
      const first = pins.findIndex((p) => p !== null);
      if (first >= 0) setCompare({ pin: first });
      else pinSeen(bench, compare.pin, true);
    }
    setCompare({ mode: value });
  };
  return (
    <>
      <Tooltip title="Compare what is seen with a pinned view: Alt+Shift+1…4 pins, Alt+1…4 shows">
        <button
          className={`pill${compare.mode === 'off' ? '' : ' mod'}`}
          aria-haspopup="dialog"
          aria-label={`Compare: ${mode.label}`}
          onClick={(e) => setAnchor(e.currentTarget)}
        >
          {compare.mode === 'off' ? 'Compare' : <b>{mode.label}</b>}
        </button>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      >
        <div className="compare" role="dialog" aria-label="Compare">
          <div className="inline">
            {MODES.map((m) => (
              <button
                key={m.value}
                className={`pill${compare.mode === m.value ? ' on' : ''}`}
                aria-pressed={compare.mode === m.value}
                title={m.help}
                onClick={() => choose(m.value)}
              >
                {m.label}
              </button>
            ))}
          </div>
          {pins.map((pin, i) => (
            <div key={i} className={`pin${compare.pin === i ? ' chosen' : ''}`}>
              <kbd>{i + 1}</kbd>
              <button className="pill grow" disabled={!pin} aria-label={`Compare with pin ${i + 1}`} onClick={() => setCompare({ pin: i })}>
                {pin ? <b className="ellipsis">{pin.label}</b> : <span className="ash">empty</span>}
              </button>
              <Button onClick={() => pinSeen(bench, i, false)}>Pin</Button>
              <Button onClick={() => pinSeen(bench, i, true)} title="Keeps the picture as it is now, whatever changes">
                Keep
              </Button>
              <Button disabled={!pin} onClick={() => recallPin(i)}>
                Show
              </Button>
              <Button disabled={!pin} onClick={() => view.set({ pins: pins.map((p, k) => (k === i ? null : p)) })}>
                Clear
              </Button>
            </div>
          ))}
          {compare.mode === 'difference' && (
            <div className="inline">
              <span className="dust" style={{ width: 110 }}>
                Brightened {compare.gain}×
              </span>
              <Slider
                size="small"
                aria-label="Difference gain"
                min={0}
                max={6}
                step={1}
                value={Math.log2(compare.gain)}
                onChange={(_, v) => setCompare({ gain: 2 ** (v as number) })}
              />
            </div>
          )}
        </div>
      </Popover>
    </>
  );
}
