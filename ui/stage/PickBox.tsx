'use client';
import { findStep } from '@/core/document';
import { intersect, isEmpty, rect } from '@/core/geometry';
import { COLOUR, formatRect } from '@/core/picture';
import { sampleBox, samplesOf } from '@/core/keying';
import { setParams } from '@/core/commands';
import { toast, toastError } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';
import type { Picking } from '../workbench/state';
import { useView, view } from '../workbench/state';
import { DragBox } from './DragBox';
import type { StagePlace } from './place';

interface Props {
  place: StagePlace;
  picking: Picking;
  toPicture(e: { clientX: number; clientY: number }): [number, number];
}

/**
 * Picks a colour from what the step is given: a click, or a box that is dragged. The mean is set and the spread told. Samples are
 * marked one after the other until that is ended.
 */
export function PickBox({ place, picking, toPicture }: Props) {
  const { viewer } = useBench();
  const shot = useShot();
  const run = useRun();
  const frame = useView((s) => s.frame);

  const sample = async (x0: number, y0: number, x1: number, y1: number): Promise<void> => {
    const found = findStep(shot, picking.step);
    if (!found) return;
    const before = found.lane.steps[found.index - 1]?.id ?? '';
    const tap = { lane: found.lane.id, after: before };
    try {
      const whole = await viewer.fetch(shot, { tap, frame, scale: 1, channels: [...COLOUR, 'A'] }, 'view');
      const region = intersect(rect(Math.floor(x0), Math.floor(y0), Math.ceil(x1), Math.ceil(y1)), formatRect(whole.format));
      if (isEmpty(region)) return;
      if (picking.of) {
        const had = found.step.params[picking.param];
        const list = samplesOf(had ?? []);
        const { x0, y0, x1, y1 } = region;
        const made = sampleBox(whole.pixels, whole.region.x1, [x0, y0, x1, y1], frame, picking.of);
        run(`Mark ${picking.of}`, setParams(picking.step, { [picking.param]: [...list, made] }, frame));
        return;
      }
      const { mean, spread } = statistics(whole.pixels, whole.region.x1, region);
      if (run('Pick colour', setParams(picking.step, { [picking.param]: mean }, frame))) {
        toast('info', `Picked ${mean.map((v) => v.toFixed(3)).join(' ')}, spread ±${spread.map((v) => v.toFixed(3)).join(' ')}`);
      }
      view.set({ picking: null });
    } catch (e) {
      toastError(e);
    }
  };

  return (
    <DragBox
      place={place}
      testId="pick"
      toPicture={toPicture}
      onBox={([x0, y0, x1, y1]) => {
        const h = x0 === x1 ? (view.get().sampleSize - 1) / 2 : 0;
        const [x, y] = h ? [Math.floor(x0), Math.floor(y0)] : [x0, y0];
        void (x0 === x1 ? sample(x - h, y - h, x + h + 1, y + h + 1) : sample(x0, y0, x1, y1));
      }}
    />
  );
}

function statistics(pixels: Float32Array, stride: number, r: { x0: number; y0: number; x1: number; y1: number }) {
  const sum = [0, 0, 0];
  const squares = [0, 0, 0];
  let n = 0;
  for (let y = r.y0; y < r.y1; y++) {
    for (let x = r.x0; x < r.x1; x++, n++) {
      for (let c = 0; c < 3; c++) {
        const v = pixels[4 * (y * stride + x) + c]!;
        sum[c]! += v;
        squares[c]! += v * v;
      }
    }
  }
  const mean = sum.map((s) => s / n);
  const spread = mean.map((m, c) => Math.sqrt(Math.max(0, squares[c]! / n - m * m)));
  return { mean, spread };
}
