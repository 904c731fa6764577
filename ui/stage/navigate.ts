import { useEffect, useRef, useState } from 'react';
import { view } from '../workbench/state';
import type { StagePlace } from './place';

type Size = { width: number; height: number };

/** The centre offset (picture pixels from the format's middle) that puts the picture's corner at x, y. */
const centreFor = (x: number, y: number, z: number, size: Size, format: Size): [number, number] => [
  (size.width / 2 - x) / z - format.width / 2,
  (size.height / 2 - y) / z - format.height / 2,
];

export function useWheelZoom(box: React.RefObject<HTMLDivElement | null>, place: StagePlace, size: Size, format: Size): void {
  const latest = useRef({ place, size, format });
  useEffect(() => {
    latest.current = { place, size, format };
  });
  useEffect(() => {
    const element = box.current!;
    const wheel = (e: WheelEvent): void => {
      e.preventDefault();
      const { place: p, size: s, format: f } = latest.current;
      const r = element.getBoundingClientRect();
      const [mx, my] = [e.clientX - r.left, e.clientY - r.top];
      const z = Math.min(64, Math.max(0.05, p.zoom * Math.exp(-e.deltaY * 0.0015)));
      const [x, y] = [mx - ((mx - p.x) / p.zoom) * z, my - ((my - p.y) / p.zoom) * z];
      view.set({ zoom: z, centre: centreFor(x, y, z, s, f) });
    };
    element.addEventListener('wheel', wheel, { passive: false });
    return () => element.removeEventListener('wheel', wheel);
  }, [box]);
}

/** Space held down is looked after by the workbench's keys; they set this attribute. */
const spaceHeld = (): boolean => document.body.dataset.space === 'down';

export function usePan(place: StagePlace, size: Size, format: Size) {
  const from = useRef<{ x: number; y: number; place: StagePlace } | null>(null);
  const [ready, setReady] = useState(false);
  return {
    ready,
    down: (e: React.PointerEvent): void => {
      if (e.button !== 1 && !(e.button === 0 && spaceHeld())) return;
      e.preventDefault();
      e.currentTarget.setPointerCapture(e.pointerId);
      from.current = { x: e.clientX, y: e.clientY, place };
      setReady(true);
    },
    move: (e: React.PointerEvent): void => {
      const f = from.current;
      if (!f) return;
      view.set({
        zoom: f.place.zoom,
        centre: centreFor(f.place.x + e.clientX - f.x, f.place.y + e.clientY - f.y, f.place.zoom, size, format),
      });
    },
    up: (): void => {
      if (!from.current) return;
      from.current = null;
      setReady(false);
      document.body.dataset.panned = 'yes';
    },
  };
}
