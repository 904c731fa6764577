'use client';
import { useRef } from 'react';
import { follow } from '../workbench/follow';
import { useView } from '../workbench/state';
import { setCompare, wipeNormal } from './compare';
import type { StagePlace } from './place';

const REACH = 90;

/** The wipe's line: its middle moves it, the grip at its end turns it; Shift keeps to steps of 15 degrees. */
export function WipeHandle({ place, format }: { place: StagePlace; format: { width: number; height: number } }) {
  const { x, y, angle } = useView((s) => s.compare);
  const box = useRef<HTMLDivElement>(null);
  const [cx, cy] = [place.x + x * format.width * place.zoom, place.y + y * format.height * place.zoom];
  const [nx, ny] = wipeNormal(angle);
  const [kx, ky] = [cx - ny * REACH, cy + nx * REACH];
  const drag = (move: (px: number, py: number, e: PointerEvent) => void) => (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const corner = box.current!.getBoundingClientRect();
    follow(e, (_dx, _dy, ev) => move(ev.clientX - corner.left, ev.clientY - corner.top, ev));
  };
  const share = (v: number): number => Math.min(1, Math.max(0, v));
  return (
    <div ref={box} className="overlay">
      <button
        className="wipe-grip"
        aria-label="Move the wipe"
        style={{ left: cx, top: cy }}
        onPointerDown={drag((px, py) =>
          setCompare({ x: share((px - place.x) / place.zoom / format.width), y: share((py - place.y) / place.zoom / format.height) }),
        )}
        onDoubleClick={() => setCompare({ x: 0.5, y: 0.5, angle: 0 })}
      />
      <button
        className="wipe-grip turn"
        aria-label="Turn the wipe"
        style={{ left: kx, top: ky }}
        onPointerDown={drag((px, py, e) => {
          const degrees = (Math.atan2(py - cy, px - cx) * 180) / Math.PI - 90;
          setCompare({ angle: e.shiftKey ? Math.round(degrees / 15) * 15 : Math.round(degrees) });
        })}
      />
    </div>
  );
}
