'use client';
import Dialog from '@mui/material/Dialog';
import OutlinedInput from '@mui/material/OutlinedInput';
import { useMemo, useState } from 'react';

export interface Entry {
  key: string;
  title: string;
  detail: string;
  keys?: string;
  run(): void;
}

interface Props {
  label: string;
  entries: readonly Entry[];
  onClose(): void;
}

/** A list that narrows while typing; arrows choose, Enter does it. */
export function Palette({ label, entries, onClose }: Props) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const found = useMemo(() => narrow(entries, text), [entries, text]);
  const choose = (e: Entry | undefined): void => {
    if (!e) return;
    onClose();
    e.run();
  };
  return (
    <Dialog open onClose={onClose} className="palette" fullWidth maxWidth="sm" aria-label={label}>
      <OutlinedInput
        autoFocus
        placeholder={label}
        value={text}
        sx={{ m: 1.5 }}
        inputProps={{ 'aria-label': label }}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault();
            setAt((i) => Math.min(found.length - 1, Math.max(0, i + (e.key === 'ArrowDown' ? 1 : -1))));
          }
          if (e.key === 'Enter') {
            // Focus goes back to a button at once; this Enter must not press it.
            e.preventDefault();
            choose(found[at]);
          }
        }}
      />
      <div className="found" role="listbox">
        {found.map((e, i) => (
          <button
            key={e.key}
            role="option"
            aria-selected={i === at}
            className={i === at ? 'on' : ''}
            onMouseMove={() => setAt(i)}
            onClick={() => choose(e)}
          >
            <span>{e.title}</span>
            <small className="grow ellipsis">{e.detail}</small>
            {e.keys && <kbd>{e.keys}</kbd>}
          </button>
        ))}
        {found.length === 0 && <div className="empty">Nothing is called that.</div>}
      </div>
    </Dialog>
  );
}

/** Entries that hold every word typed; those whose title begins with it first. */
function narrow(entries: readonly Entry[], text: string): Entry[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = entries.filter((e) => words.every((w) => `${e.title} ${e.detail}`.toLowerCase().includes(w)));
  const rank = (e: Entry): number =>
    e.title.toLowerCase().startsWith(words.join(' ')) ? 0 : e.title.toLowerCase().includes(words[0] ?? '') ? 1 : 2;
  return words.length ? hits.sort((a, b) => rank(a) - rank(b)) : hits;
}
