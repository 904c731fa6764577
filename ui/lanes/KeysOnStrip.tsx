'use client';
import type { Lane, Shot, Step } from '@/core/document';
import { limitedOf } from '@/core/document';
import { DOUBTFUL, withKeyMoved } from '@/core/shape';
import { changeSome, keyFramesOf, shapesIn } from '@/core/commands';
import { newGesture } from '../controls/NumberField';
import { useShaping } from '../shapes/shaping';
import { useRun } from '../workbench/context';
import { follow } from '../workbench/follow';
import { useView, view } from '../workbench/state';
import { COLUMN, left } from './time';

interface Props {
  lane: Lane;
  shot: Pick<Shot, 'range'>;
  top: number;
}

/** The keys of the selected step or zone. Those of the shape in hand are dragged to other frames; what was found in the picture is hollow, in doubt ochre. */
export function KeysOnStrip({ lane, shot, top }: Props) {
  const selection = useView((s) => (s.selection?.kind === 'step' || s.selection?.kind === 'zone' ? s.selection.id : null));
  const step = selection ? limitedOf(lane).find((s) => s.id === selection) : undefined;
  return step ? <Keys step={step} shot={shot} top={top} /> : null;
}

function Keys({ step, shot, top }: { step: Step } & Omit<Props, 'lane'>) {
  const run = useRun();
  const chosen = useShaping((s) => s.shape);
  const inHand = shapesIn(step).find((s) => s.id === chosen);
  const { first, last } = shot.range;
  const press = (frame: number) => (e: React.PointerEvent) => {
    if (e.button !== 0 || !inHand || inHand.locked || !inHand.keys.some((k) => k.frame === frame)) return;
    const gesture = newGesture();
    view.set({ frame, playing: false });
    follow(e, (dx) => {
      const to = Math.min(last, Math.max(first, frame + Math.round((dx * (last - first + 1)) / COLUMN)));
      if (
        run(
          'Move shape key',
          changeSome(step.id, [inHand.id], () => withKeyMoved(inHand, frame, to)),
          gesture,
        )
      )
        view.set({ frame: to });
    });
  };
  return keyFramesOf(step).map((k) => {
    const own = inHand?.keys.find((x) => x.frame === k);
    const found = own?.sure === undefined ? '' : own.sure < DOUBTFUL ? ' found doubtful' : ' found';
    return (
      <span
        key={k}
        className={`key${own ? ' movable' : ''}${found}`}
        data-testid={`key ${k}`}
        style={{ left: left(shot, k), top: top + 1 }}
        title={own ? `Key of ${inHand!.name} at ${k}: drag it to another frame` : `Key at ${k}`}
        onPointerDown={press(k)}
      />
    );
  });
}
