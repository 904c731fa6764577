import type { CameraView, TestCard } from '@/core/space';
import { onCard } from '@/core/space';

/** Squares along each side of a card. */
const SQUARES = 4;

/** A square of a card: its corners on the picture, two numbers each, and whether it is a light one. */
export interface CardSquare {
  readonly points: readonly number[];
  readonly light: boolean;
}

/** A test card as a frame sees it; empty where it lies behind the camera. */
export function squaresOf(view: CameraView, card: TestCard, frame: number, reference: number): CardSquare[] {
  const place = onCard(view, card, reference);
  if (!place || !view.has(frame)) return [];
  const corner = (i: number, j: number): readonly [number, number] | null => {
    const p = view.project(frame, place(i / SQUARES - 0.5, j / SQUARES - 0.5));
    return p && [p[0], p[1]];
  };
  const made: CardSquare[] = [];
  for (let j = 0; j < SQUARES; j++) {
    for (let i = 0; i < SQUARES; i++) {
      const points = [corner(i, j), corner(i + 1, j), corner(i + 1, j + 1), corner(i, j + 1)];
      if (points.every((p) => p !== null)) made.push({ points: points.flat(), light: (i + j) % 2 === 0 });
    }
  }
  return made;
}
