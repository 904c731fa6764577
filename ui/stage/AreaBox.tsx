'use client';
import { useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import type { Box } from './DragBox';
import { DragBox } from './DragBox';
import type { StagePlace } from './place';

interface Props {
  place: StagePlace;
  toPicture(e: { clientX: number; clientY: number }): [number, number];
}

/** The area that alone is worked out: dragged once, then outlined. A mere click gives the whole frame back. */
export function AreaBox({ place, toPicture }: Props) {
  const { format } = useShot();
  const areaing = useView((s) => s.areaing);
  const area = useView((s) => s.area);
  if (areaing) {
    return (
      <DragBox
        place={place}
        testId="area"
        toPicture={toPicture}
        onBox={([x0, y0, x1, y1]) => {
          const inside: Box = [Math.max(0, x0), Math.max(0, y0), Math.min(format.width, x1), Math.min(format.height, y1)].map(
            Math.round,
          ) as Box;
          const large = inside[2] - inside[0] >= 4 && inside[3] - inside[1] >= 4;
          view.set({ areaing: false, area: large ? inside : null });
        }}
      />
    );
  }
  if (!area) return null;
  const [x0, y0, x1, y1] = area;
  return (
    <div
      className="pickbox"
      style={{
        left: place.x + x0 * place.zoom,
        top: place.y + y0 * place.zoom,
        width: (x1 - x0) * place.zoom,
        height: (y1 - y0) * place.zoom,
      }}
    />
  );
}
