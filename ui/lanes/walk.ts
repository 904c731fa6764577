import type { ShotSession } from '@/store';
import { moveChip } from '../workbench/deleting';
import { heldByPointer } from '../workbench/in-hand';

/** What of a row takes the focus: its head, then its chips. */
const thingsOf = (row: Element): HTMLElement[] => [...row.querySelectorAll<HTMLElement>('.lane-head, .chip')];

/** Arrows walk the board when the keyboard has it in hand: along a lane, and to the lanes above and below; with Alt they move the chip. Returns whether the key was one. */
export function walkBoard(e: React.KeyboardEvent, session: ShotSession): boolean {
  const at = e.target instanceof HTMLElement ? e.target : null;
  const row = at?.closest('.board-row.lane');
  if (heldByPointer() || !at || !row || !at.matches('.lane-head, .chip') || !/^Arrow/.test(e.key)) return false;
  const rows = [...document.querySelectorAll('.board-row.lane')];
  const own = thingsOf(row);
  const along = own.indexOf(at);
  const [dx, dy] = [
    Number(e.key === 'ArrowRight') - Number(e.key === 'ArrowLeft'),
    Number(e.key === 'ArrowDown') - Number(e.key === 'ArrowUp'),
  ];
  if (e.altKey) return dx !== 0 && shift(at, dx, session);
  const next = dx ? own[along + dx] : thingsOf(rows[rows.indexOf(row) + dy] ?? row)[along];
  (next ?? (dy ? thingsOf(rows[rows.indexOf(row) + dy] ?? row).at(-1) : undefined))?.focus();
  return true;
}

/** Moves a chip by one place in its lane; it keeps the focus. */
function shift(chip: HTMLElement, by: number, session: ShotSession): boolean {
  const { step: id } = chip.dataset;
  const lane = chip.closest<HTMLElement>('[data-lane]')?.dataset.lane;
  const steps = session.store.getState().shot.lanes.find((l) => l.id === lane)?.steps ?? [];
  const at = steps.findIndex((s) => s.id === id);
  const to = at + by;
  if (!id || !lane || at < 0 || to < 0 || to >= steps.length) return false;
  moveChip(session, id, lane, by > 0 ? to + 1 : to, false);
  requestAnimationFrame(() => [...document.querySelectorAll<HTMLElement>('[data-step]')].find((c) => c.dataset.step === id)?.focus());
  return true;
}
