'use client';
import { useEffect, useRef } from 'react';
import { blurRadius, passOf } from '@/core/passes';
import { findStep, resolveParam, stepValues } from '@/core/document';
import { focusOptions } from '@/core/steps';
import { STEPS } from '@/core/steps';
import type { StagePlace } from '../stage/place';
import { useStepSpace } from '../stage/handles/use-step-space';
import { tokens } from '../theme/tokens';
import { useSelectedLimited, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { layerParam } from './DataPick';
import { usePlanes } from './pass-pixels';
import { distancesIn } from './surface';
import { useInput } from './use-input';

/** CSS pixels between marks. */
const GRID = 17;
/** Pixels of blur that count as in focus. */
const SHARP = 0.75;

/** Where the focus lies, by shape: dots in focus, strokes that lean left nearer, right farther, longer where the blur is greater. */
export function FocusOverlay({ place }: { place: StagePlace }) {
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const selected = useSelectedLimited()!;
  const canvas = useRef<HTMLCanvasElement>(null);
  const input = useInput(selected.step.id);
  const { tap, info } = input;
  const step = findStep(shot, selected.step.id)?.step;
  const pass = step && passOf(info?.passes, layerParam(step, 'depth'), 'depth');
  const pixels = usePlanes(input, pass ? [pass.channels[0]!, 'A'] : [], 0.25);
  const space = useStepSpace(tap ?? { lane: '' }, place);
  useEffect(() => {
    const c = canvas.current;
    const context = c?.getContext('2d');
    if (!c || !context || !step || !pixels || !space || !info || !pass) return;
    const ratio = window.devicePixelRatio;
    [c.width, c.height] = [place.width * ratio, place.height * ratio];
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, place.width, place.height);
    const p = stepValues(shot, STEPS.get(step.type)!.params, step, frame) as unknown as Parameters<typeof focusOptions>[0];
    const options = focusOptions(p, info.format);
    const depth = distancesIn(step, info, pass, pixels);
    const marks = (dark: boolean): void => {
      context.lineWidth = dark ? 3 : 1.2;
      context.strokeStyle = dark ? tokens.pit : tokens.bone;
      context.fillStyle = context.strokeStyle;
      for (let y = GRID / 2; y < place.height; y += GRID) {
        for (let x = GRID / 2; x < place.width; x += GRID) {
          const i = pixels.indexAt(...space.from(x, y));
          if (i < 0 || !(pixels.at('A', i) > 0) || depth[i] === Infinity) continue;
          const r = blurRadius(depth[i]!, options);
          context.beginPath();
          if (Math.abs(r) <= SHARP) {
            context.arc(x, y, dark ? 2.6 : 1.7, 0, 2 * Math.PI);
            context.fill();
            continue;
          }
          const half = Math.min(5, 1.8 + Math.abs(r) * 0.35);
          const lean = r < 0 ? -1 : 1;
          context.moveTo(x - lean * half, y + half);
          context.lineTo(x + lean * half, y - half);
          context.stroke();
        }
      }
    };
    marks(true);
    marks(false);
  });
  if (!step) return null;
  const focus = Number(resolveParam(shot, step.params.focus, 5, frame));
  return (
    <>
      <canvas ref={canvas} className="overlay" style={{ width: '100%', height: '100%', opacity: 0.6 }} data-testid="focus-overlay" />
      <div className="focus-key mono">
        focus {focus.toFixed(2)} · <b>•</b> sharp · <b>\</b> nearer · <b>/</b> farther
      </div>
    </>
  );
}
