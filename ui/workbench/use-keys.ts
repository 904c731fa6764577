import { useEffect } from 'react';
import { ACTIONS, keyName } from '../search/actions';
import { keysOf } from '../search/keymap';
import { useBench } from './context';
import { heldByPointer } from './in-hand';
import { view } from './state';

/** The parts of the page that F6 goes through, each to the first thing in it that takes the focus. */
const PARTS = [
  '[aria-label="Sources"], [aria-label="Readings"]',
  '[data-testid="stage"]',
  '[aria-label="Controls"]',
  '.transport',
  '.board',
];

function nextPart(by: 1 | -1): void {
  const parts = PARTS.map((p) => document.querySelector<HTMLElement>(p)).filter((p) => p !== null);
  const now = parts.findIndex((p) => p.contains(document.activeElement));
  const at = now < 0 ? (by > 0 ? 0 : parts.length - 1) : (now + by + parts.length) % parts.length;
  const part = parts[at];
  const first = part?.querySelector<HTMLElement>('.chip.selected, .chip, button:not(:disabled), input, [tabindex="0"]');
  (first ?? part)?.focus({ preventScroll: false });
}

/** Keys work everywhere but in fields; Space pans while it is held and plays when it is only pressed. */
export function useKeys(): void {
  const bench = useBench();
  useEffect(() => {
    /** Keys that the focused element wants for itself. Sliders, switches and closed lists keep their own keys only. */
    const taken = (e: KeyboardEvent): boolean => {
      const t = e.target;
      if (!(t instanceof HTMLElement)) return false;
      if (t.matches('input[type="range"]')) return /^(Arrow|Home|End|Page)/.test(e.key);
      if (t.matches('input[type="checkbox"]')) return e.key === ' ';
      // A list that was chosen from is opened by these and takes no letters.
      if (t.matches('[role="combobox"]:not(input)')) return /^( |Enter|ArrowUp|ArrowDown)$/.test(e.key);
      // What is reached by the keyboard is pressed by it; what the pointer pressed leaves Space to playing.
      if (/^( |Enter)$/.test(e.key) && !heldByPointer() && t.matches('button, a, [role="button"], [role="tab"]')) return true;
      return t.matches('input, textarea, [role="combobox"], [role="menuitem"], [role="option"]') || t.isContentEditable;
    };
    const down = (e: KeyboardEvent): void => {
      const { dialog, picking, brushing, drawing, full } = view.get();
      if (e.key === 'Escape') {
        if (picking) view.set({ picking: null });
        else if (brushing) view.set({ brushing: null });
        else if (drawing) view.set({ drawing: null });
        else if (view.get().areaing) view.set({ areaing: false });
        else if (full && !dialog) view.set({ full: false });
        return;
      }
      if (e.key === 'F6') {
        e.preventDefault();
        nextPart(e.shiftKey ? -1 : 1);
        return;
      }
      const name = keyName(e);
      if (e.key === 'Tab') return;
      if (dialog || (taken(e) && name !== 'Ctrl+K')) return;
      if (name === 'Space') {
        e.preventDefault();
        document.body.dataset.space = 'down';
        return;
      }
      if (name === 'B') {
        e.preventDefault();
        if (!view.get().before) view.set({ before: true });
        return;
      }
      const action = ACTIONS.find((a) => keysOf(a).includes(name));
      if (!action) return;
      e.preventDefault();
      action.run(bench.session, bench);
    };
    const up = (e: KeyboardEvent): void => {
      if (e.key.toUpperCase() === 'B' && view.get().before) view.set({ before: false });
      if (e.key !== ' ' || document.body.dataset.space !== 'down') return;
      delete document.body.dataset.space;
      const panned = document.body.dataset.panned;
      delete document.body.dataset.panned;
      if (!panned) view.set({ playing: !view.get().playing });
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, [bench]);
}
