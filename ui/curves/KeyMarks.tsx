'use client';
import { useRef } from 'react';
import type { Key } from '@/core/document';
import { handleAt, moveKeys, repeatedKeys, replacedBy } from '@/core/document';
import { newGesture } from '../controls/NumberField';
import type { ShotSession } from '@/store';
import { toast } from '../theme/toast';
import { useBench, useRun } from '../workbench/context';
import { follow } from '../workbench/follow';
import { useView, view } from '../workbench/state';
import type { Track, Viewport } from './track';

interface Props {
  track: Track;
  chosen: ReadonlySet<number>;
  onChosen(frames: ReadonlySet<number>): void;
  port: Viewport;
  x(frame: number): number;
  y(value: number): number;
  size: { width: number; height: number };
}

/** Follows a drag of keys: the picture keeps up at a smaller size, and the whole of it is one step of undo. */
function dragKeys(e: React.PointerEvent, move: (dx: number, dy: number, gesture: string) => void, ended?: () => void): void {
  const gesture = newGesture();
  view.set({ dragging: true });
  follow(
    e,
    (dx, dy) => move(dx, dy, gesture),
    () => {
      view.set({ dragging: false });
      ended?.();
    },
  );
}

/** A key that takes another's place is told of: on a crowded curve it is not seen to go. */
export function tellReplaced(session: ShotSession, frames: readonly number[]): void {
  if (frames.length === 0) return;
  const what = frames.length === 1 ? `The key at frame ${frames[0]} was` : `The keys at frames ${frames.join(', ')} were`;
  toast('info', `${what} replaced by what was moved there.`, { label: 'Undo', run: () => session.undo() });
}

/** The keys of the active curve: chosen by a click, moved by dragging, with handles where they are smooth. */
export function KeyMarks({ track, chosen, onChosen, port, x, y, size }: Props) {
  const run = useRun();
  const { session } = useBench();
  const frame = useView((s) => s.frame);
  const { keys } = track;
  // What cannot be moved up and down has no handles either.
  const part = track.part ?? 0;
  const lifts = track.part !== null;
  const repeats = new Set(repeatedKeys(keys));
  const perFrame = size.width / (port.last - port.first);
  const perValue = size.height / (port.high - port.low);
  const valueOf = (k: Key): number => track.read(k.value);
  const set = (next: readonly Key[], gesture: string): boolean => run('Move keys', track.write(next, frame), gesture);

  const press = (k: Key) => (e: React.PointerEvent) => {
    const mine = e.shiftKey
      ? new Set(chosen.has(k.frame) ? [...chosen].filter((f) => f !== k.frame) : [...chosen, k.frame])
      : chosen.has(k.frame)
        ? chosen
        : new Set([k.frame]);
    onChosen(mine);
    if (mine.size === 0) return;
    const start = keys;
    let by = 0;
    dragKeys(
      e,
      (dx, dy, gesture) => {
        const frames = Math.round(dx / perFrame);
        if (!set(moveKeys(start, mine, { frames, part, lift: lifts ? -dy / perValue : 0 }), gesture)) return;
        by = frames;
        onChosen(new Set([...mine].map((f) => f + frames)));
      },
      () => tellReplaced(session, replacedBy(start, mine, by)),
    );
  };

  const handle = (k: Key, side: 'before' | 'after') => {
    const own = lifts && k.ease === 'smooth' && chosen.has(k.frame) ? handleAt(keys, keys.indexOf(k), side) : null;
    if (!own) return null;
    const [df, dv] = [own[0]!, own[part + 1] ?? 0];
    const [hx, hy] = [x(k.frame + df), y(valueOf(k) + dv)];
    const drag = (e: React.PointerEvent): void =>
      dragKeys(e, (dx, dy, gesture) => {
        // A handle stays on its own side of the key; of a pair both numbers share its frames.
        const at = df + dx / perFrame;
        const to = own.map((v, i) =>
          i === 0 ? (side === 'after' ? Math.max(0.05, at) : Math.min(-0.05, at)) : i === part + 1 ? dv - dy / perValue : v,
        );
        set(
          keys.map((o) => (o.frame === k.frame ? { ...o, [side]: to } : o)),
          gesture,
        );
      });
    return (
      <g key={side}>
        <line x1={x(k.frame)} y1={y(valueOf(k))} x2={hx} y2={hy} stroke="var(--dust)" />
        <circle
          cx={hx}
          cy={hy}
          r={4}
          fill="var(--pit)"
          stroke="var(--bone)"
          onPointerDown={drag}
          style={{ cursor: 'grab' }}
          aria-label={`Handle ${side} ${k.frame}`}
        />
      </g>
    );
  };

  return (
    <g>
      {keys.map((k) => (
        <g key={k.frame}>
          {handle(k, 'before')}
          {handle(k, 'after')}
          {repeats.has(k.frame) && <circle cx={x(k.frame)} cy={y(valueOf(k))} r={8} fill="none" stroke="var(--ochre)" />}
          <rect
            x={-4.5}
            y={-4.5}
            width={9}
            height={9}
            transform={`translate(${x(k.frame)} ${y(valueOf(k))}) rotate(45)`}
            fill={chosen.has(k.frame) ? 'var(--bone)' : track.colour}
            stroke="var(--pit)"
            style={{ cursor: 'move' }}
            role="button"
            aria-label={`Key at ${k.frame}`}
            onPointerDown={press(k)}
            onDoubleClick={(e) => e.stopPropagation()}
          />
        </g>
      ))}
      <SelectionBox
        size={size}
        onBox={(x0, y0, x1, y1) =>
          onChosen(
            new Set(
              keys.filter((k) => x(k.frame) >= x0 && x(k.frame) <= x1 && y(valueOf(k)) >= y0 && y(valueOf(k)) <= y1).map((k) => k.frame),
            ),
          )
        }
      />
    </g>
  );
}

/** A strip along the upper edge: a drag that begins there chooses the keys in the box that it draws. */
function SelectionBox({
  size,
  onBox,
}: {
  size: { width: number; height: number };
  onBox(x0: number, y0: number, x1: number, y1: number): void;
}) {
  const box = useRef<SVGRectElement>(null);
  return (
    <>
      <rect ref={box} fill="rgb(233 227 216 / 10%)" stroke="var(--bone)" pointerEvents="none" width={0} height={0} />
      <rect
        className="box-catcher"
        width={size.width}
        height={14}
        fill="transparent"
        style={{ cursor: 'crosshair' }}
        onPointerDown={(e) => {
          const corner = e.currentTarget.getBoundingClientRect();
          const [x0, y0] = [e.clientX - corner.left, e.clientY - corner.top];
          const draw = (r: Record<'x' | 'y' | 'width' | 'height', number>): void =>
            Object.entries(r).forEach(([name, v]) => box.current?.setAttribute(name, String(v)));
          const move = (dx: number, dy: number): void => {
            const r = { x: Math.min(x0, x0 + dx), y: Math.min(y0, y0 + dy), width: Math.abs(dx), height: Math.abs(dy) };
            draw(r);
            onBox(r.x, r.y, r.x + r.width, r.y + r.height);
          };
          follow(e, move, () => draw({ x: 0, y: 0, width: 0, height: 0 }));
        }}
      >
        <title>Drag from this edge to choose the keys in a box</title>
      </rect>
    </>
  );
}
