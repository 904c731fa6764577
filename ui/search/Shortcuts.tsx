'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import OutlinedInput from '@mui/material/OutlinedInput';
import { useEffect, useState } from 'react';
import { changeSettings } from '@/store';
import { toast, toastError } from '../theme/toast';
import type { Action } from './actions';
import { ACTIONS, GROUPS, HELD, keyName } from './actions';
import { keysOf, takenBy, useKeymap } from './keymap';

const PAN = 'Pan the stage';

function keep(chosen: Record<string, string>): void {
  useKeymap.setState({ chosen });
  changeSettings({ keys: chosen }).catch(toastError);
}

/** All keys, found by name, and changed by pressing others. */
export function Shortcuts({ onClose }: { onClose(): void }) {
  const [text, setText] = useState('');
  const [asking, setAsking] = useState<Action | null>(null);
  const chosen = useKeymap((s) => s.chosen);
  const wanted = text.toLowerCase();
  const fits = (a: Action, group: string): boolean => `${group} ${a.title} ${keysOf(a, chosen).join(' ')}`.toLowerCase().includes(wanted);
  const shown = GROUPS.map((g) => ({ ...g, actions: g.actions.filter((a) => fits(a, g.title)) })).filter((g) => g.actions.length > 0);

  useEffect(() => {
    if (!asking) return undefined;
    const down = (e: KeyboardEvent): void => {
      if (['Shift', 'Control', 'Alt', 'Meta'].includes(e.key)) return;
      e.preventDefault();
      e.stopPropagation();
      setAsking(null);
      const key = keyName(e);
      if (key === 'Escape') return;
      if (key === 'Delete' || key === 'Backspace') return keep({ ...chosen, [asking.title]: '' });
      const held = HELD[key];
      const other = takenBy(key, asking, ACTIONS);
      if (held) return toast('error', `${key} is taken: ${held}. Choose another key.`);
      if (other) return toast('error', `${key} is taken by "${other.title}". Give that another key first.`);
      keep({ ...chosen, [asking.title]: key });
    };
    window.addEventListener('keydown', down, true);
    return () => window.removeEventListener('keydown', down, true);
  }, [asking, chosen]);

  return (
    <Dialog open onClose={() => (asking ? setAsking(null) : onClose())} fullWidth maxWidth="md" aria-label="Shortcuts">
      <DialogTitle>Shortcuts</DialogTitle>
      <DialogContent>
        <OutlinedInput
          autoFocus
          fullWidth
          placeholder="Find a shortcut"
          value={text}
          onChange={(e) => setText(e.target.value)}
          sx={{ mb: 1.5 }}
        />
        <div className="shortcuts">
          {shown.map((g) => (
            <section key={g.title} aria-label={g.title}>
              <h3>{g.title}</h3>
              {g.actions.map((a) => (
                <div key={a.title}>
                  <span>{a.title}</span>
                  <button
                    className={`keybutton${asking?.title === a.title ? ' asking' : ''}${a.title in chosen ? ' own' : ''}`}
                    aria-label={`Key of: ${a.title}`}
                    title="Click, then press another key; Delete takes it away, Escape leaves it"
                    onClick={() => setAsking(a)}
                  >
                    {asking?.title === a.title ? 'press a key' : keysOf(a, chosen).join(' · ') || 'none'}
                  </button>
                </div>
              ))}
            </section>
          ))}
          {PAN.toLowerCase().includes(wanted) && (
            <div>
              <span>{PAN}</span>
              <kbd>Space-drag · middle button</kbd>
            </div>
          )}
          {'hold for before'.includes(wanted) && (
            <div>
              <span>Hold: without the selected step</span>
              <kbd>B</kbd>
            </div>
          )}
        </div>
      </DialogContent>
      <DialogActions>
        <Button disabled={Object.keys(chosen).length === 0} onClick={() => keep({})}>
          All as they were
        </Button>
        <span style={{ flex: 1 }} />
        <Button variant="outlined" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
