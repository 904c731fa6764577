'use client';
import { useEffect, useRef } from 'react';
import type { IdPick, IdSet } from '@/core/passes';
import { idAt } from '@/core/passes';
import type { Space } from '../stage/handles/use-step-space';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import type { PassPixels } from './pass-pixels';

/** CSS pixels between strokes. */
const GRID = 9;

interface Props {
  set: IdSet;
  picked: readonly IdPick[];
  pixels: PassPixels;
  space: Space;
  place: StagePlace;
}

/** Strokes over all that is picked. */
export function PickedMarks({ set, picked, pixels, space, place }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current;
    const context = c?.getContext('2d');
    if (!c || !context) return;
    const ratio = window.devicePixelRatio;
    [c.width, c.height] = [place.width * ratio, place.height * ratio];
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, place.width, place.height);
    if (picked.length === 0) return;
    const ids = new Set(picked.map((p) => p.id));
    for (const [width, colour] of [
      [3, tokens.pit],
      [1.2, tokens.bone],
    ] as const) {
      context.lineWidth = width;
      context.strokeStyle = colour;
      context.beginPath();
      for (let y = GRID / 2, row = 0; y < place.height; y += GRID, row++) {
        for (let x = GRID / 2 + (row % 2) * (GRID / 2); x < place.width; x += GRID) {
          const i = pixels.indexAt(...space.from(x, y));
          if (i < 0) continue;
          const id = idAt(set, (channel) => pixels.at(channel, i));
          if (id === null || !ids.has(id)) continue;
          context.moveTo(x - 2.2, y + 2.2);
          context.lineTo(x + 2.2, y - 2.2);
        }
      }
      context.stroke();
    }
  });
  return <canvas ref={canvas} className="overlay" style={{ width: '100%', height: '100%' }} data-testid="picked-marks" />;
}
