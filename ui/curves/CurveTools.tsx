'use client';
import { useRef } from 'react';
import Button from '@mui/material/Button';
import Tooltip from '@mui/material/Tooltip';
import type { Key } from '@/core/document';
import { easeKeys, moveKeys, partsOf, replacedBy, smoothKeys, thinKeys, valueAt, withKey } from '@/core/document';
import { NumberField } from '../controls/NumberField';
import { toast } from '../theme/toast';
import { useBench, useRun } from '../workbench/context';
import { useView } from '../workbench/state';
import type { Track } from './track';
import { tellReplaced } from './KeyMarks';

/** Keys that were copied, their frames counted from the first. */
let clipboard: readonly Key[] = [];

interface Props {
  track: Track;
  chosen: ReadonlySet<number>;
  onChosen(frames: ReadonlySet<number>): void;
  onFit(): void;
}

/** What can be done with the chosen keys of the active curve; with all of them where none is chosen. */
export function CurveTools({ track, chosen, onChosen, onFit }: Props) {
  const run = useRun();
  const { session } = useBench();
  const frame = useView((s) => s.frame);
  const { keys, part, read } = track;
  const many = chosen.size ? chosen : new Set(keys.map((k) => k.frame));
  const lone = chosen.size === 1 ? keys.find((k) => chosen.has(k.frame)) : undefined;
  const set = (label: string, next: readonly Key[], gesture?: string): boolean => run(label, track.write(next, frame), gesture);
  const button = (label: string, tip: string, act: () => void, disabled = false) => (
    <Tooltip title={tip} key={label}>
      <span>
        <Button disabled={disabled} onClick={act}>
          {label}
        </Button>
      </span>
    </Tooltip>
  );
  const thin = (): void => {
    const next = thinKeys(keys, many, track.tolerance);
    const within = part === null ? `${track.tolerance} px` : "1 % of the curve's height";
    if (set('Thin keys', next)) toast('info', `${keys.length - next.length} of ${keys.length} keys were needless to within ${within}.`);
    onChosen(new Set());
  };
  const paste = (): void => {
    if (clipboard.length === 0) return;
    if (partsOf(clipboard[0]!.value).length !== partsOf(keys[0]!.value).length)
      return toast('error', 'The copied keys have another number of values than this parameter.');
    let next = keys;
    for (const k of clipboard) next = [...next.filter((o) => o.frame !== frame + k.frame), { ...k, frame: frame + k.frame }];
    if (set('Paste keys', next)) onChosen(new Set(clipboard.map((k) => frame + k.frame)));
  };
  return (
    <div className="scope-bar curve-tools">
      {(part === null ? EASED : [...EASED, 'flat' as const]).map((ease) =>
        button(ease[0]!.toUpperCase() + ease.slice(1), `Lets the chosen keys ${EASES[ease]}`, () =>
          set('Ease keys', easeKeys(keys, many, ease)),
        ),
      )}
      <span className="sep" />
      {button('Add', `A key at frame ${frame}, on the curve`, () => {
        if (set('Add key', withKey({ keys: [...keys] }, frame, valueAt(keys, frame)).keys)) onChosen(new Set([frame]));
      })}
      {button(
        'Delete',
        'Takes the chosen keys away; the last leaves its value',
        () => {
          if (
            set(
              'Delete keys',
              keys.filter((k) => !chosen.has(k.frame)),
            )
          )
            onChosen(new Set());
        },
        chosen.size === 0,
      )}
      {button('Copy', 'Copies the chosen keys', () => {
        const first = Math.min(...many);
        clipboard = keys.filter((k) => many.has(k.frame)).map((k) => ({ ...k, frame: k.frame - first }));
        toast('info', `${clipboard.length} keys copied: Paste puts them at the current frame of any curve with as many values.`);
      })}
      {button('Paste', 'Puts copied keys at the current frame', paste)}
      <span className="sep" />
      {button('Even out', 'Draws each chosen value towards its neighbours', () => set('Smooth keys', smoothKeys(keys, many)))}
      {button('Thin out', 'Takes away keys that the curve does not need', thin)}
      {button('Fit', 'Shows all keys (double-click). The wheel zooms values, with Shift frames.', onFit)}
      <span className="grow" />
      {chosen.size > 1 && (
        <ScaleKeys
          keys={keys}
          chosen={chosen}
          track={track}
          onKeys={(label, next, gesture) => set(label, next, gesture)}
          onChosen={onChosen}
        />
      )}
      {lone && (
        <>
          <span className="dust">frame</span>
          <NumberField
            label="Key's frame"
            value={lone.frame}
            whole
            step={1}
            onChange={(f, gesture) => {
              const replaced = replacedBy(keys, chosen, f - lone.frame);
              if (!set('Move key', moveKeys(keys, chosen, { frames: f - lone.frame }), gesture)) return;
              onChosen(new Set([f]));
              tellReplaced(session, replaced);
            }}
          />
          {part !== null && (
            <>
              <span className="dust">value</span>
              <NumberField
                label="Key's value"
                value={read(lone.value)}
                decimals={3}
                step={0.01}
                onChange={(v, gesture) => void set('Set key', moveKeys(keys, chosen, { part, lift: v - read(lone.value) }), gesture)}
              />
            </>
          )}
        </>
      )}
    </div>
  );
}

interface ScaleProps {
  keys: readonly Key[];
  chosen: ReadonlySet<number>;
  track: Track;
  onKeys(label: string, keys: readonly Key[], gesture?: string): boolean;
  onChosen(frames: ReadonlySet<number>): void;
}

/** Several keys scaled together: their values about their middle, their times from the first. */
function ScaleKeys({ keys, chosen, track: { part, read }, onKeys, onChosen }: ScaleProps) {
  // While a field is dragged it scales what there was when that began.
  const start = useRef<{ gesture: string | undefined; keys: readonly Key[]; chosen: ReadonlySet<number> } | null>(null);
  const scale = (what: 'scale' | 'stretch') => (by: number, gesture?: string) => {
    if (!start.current || gesture === undefined || start.current.gesture !== gesture) start.current = { gesture, keys, chosen };
    const from = start.current;
    const values = from.keys.filter((k) => from.chosen.has(k.frame)).map((k) => read(k.value));
    const pivot = (Math.min(...values) + Math.max(...values)) / 2;
    const next = moveKeys(from.keys, from.chosen, { part: part ?? 0, pivot, [what]: by });
    if (!onKeys(what === 'scale' ? 'Scale values' : 'Scale times', next, gesture)) return;
    const first = Math.min(...from.chosen);
    onChosen(what === 'scale' ? from.chosen : new Set([...from.chosen].map((f) => Math.round(first + (f - first) * by))));
  };
  return (
    <>
      {part !== null && (
        <>
          <span className="dust">values ×</span>
          <NumberField label="Scale values of the chosen keys" value={1} decimals={2} step={0.01} onChange={scale('scale')} />
        </>
      )}
      <span className="dust">time ×</span>
      <NumberField label="Scale times of the chosen keys" value={1} min={0.01} decimals={2} step={0.01} onChange={scale('stretch')} />
    </>
  );
}

const EASED = ['hold', 'linear', 'smooth'] as const;
const EASES = {
  hold: 'hold their values until the next',
  linear: 'go straight to the next',
  smooth: 'pass smoothly, without overshooting',
  flat: 'arrive and leave level',
} as const;
