'use client';
import type { ComponentProps } from 'react';
import { Rect } from 'react-konva';
import { tokens } from '../../theme/tokens';

const SIZE = 10;

/** A square to be dragged, of the same size at any zoom. */
export function Grip({ x, y, ...rest }: Omit<ComponentProps<typeof Rect>, 'x' | 'y'> & { x: number; y: number }) {
  return (
    <Rect
      x={x - SIZE / 2}
      y={y - SIZE / 2}
      width={SIZE}
      height={SIZE}
      fill={tokens.bone}
      stroke={tokens.pit}
      strokeWidth={1}
      hitStrokeWidth={14}
      {...rest}
    />
  );
}
