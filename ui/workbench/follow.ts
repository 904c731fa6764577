/** Follows a press until the release: how far the pointer has gone, and its event. */
export function follow(
  e: Pick<PointerEvent, 'clientX' | 'clientY' | 'stopPropagation'>,
  move: (dx: number, dy: number, event: PointerEvent) => void,
  done?: () => void,
): void {
  e.stopPropagation();
  const [x0, y0] = [e.clientX, e.clientY];
  const released = new AbortController();
  const { signal } = released;
  const off = (): void => {
    released.abort();
    done?.();
  };
  window.addEventListener('pointermove', (ev) => move(ev.clientX - x0, ev.clientY - y0, ev), { signal });
  window.addEventListener('pointerup', off, { signal });
  // A drag chooses no text on its way.
  window.addEventListener('selectstart', (ev) => ev.preventDefault(), { signal });
  // The browser may take the pointer away, for a touch that becomes a scroll for instance.
  window.addEventListener('pointercancel', off, { signal });
}
