'use client';
import { useEffect, useState } from 'react';
import type { Cloud } from '@/core/render';
import { scaleFormat } from '@/core/picture';
import type { Thing } from '@/core/space';
import { cloudChannels } from '@/core/space';
import { readingWorker } from '@/engine/browser';
import { usePlanes } from '../../passes/pass-pixels';
import { useTapInput } from '../../passes/use-input';
import { useShot } from '../../workbench/context';
import type { SceneAt } from './use-scene';

/** Looked at in a smaller picture: dots of the room need no more. */
const SMALL = 0.25;
/** Dots that the room draws and snaps to at most: it does so on the page's thread. */
const MOST = 16_000;

/** Places that the render of a thing of points shows; null until they are there. */
export function useRenderCloud({ step, view }: SceneAt, thing: Thing): Cloud | null {
  const { format } = useShot();
  const tap = thing.what === 'points' && thing.dots === 'render' ? (step.feeds[`${thing.id}.render`] ?? null) : null;
  const input = useTapInput(tap, thing.offset);
  const pixels = usePlanes(input, (input.info && cloudChannels(input.info)) ?? [], SMALL, thing.offset);
  const [cloud, setCloud] = useState<Cloud | null>(null);
  const seen = JSON.stringify(view);
  useEffect(() => {
    const { info } = input;
    if (!pixels || !info) return setCloud(null);
    let live = true;
    const planes = Object.fromEntries((cloudChannels(info) ?? []).map((c) => [c, pixels.plane(c)]));
    readingWorker
      .call((w) =>
        w.cloud(
          planes,
          pixels.region,
          { ...info, format: scaleFormat(info.format, SMALL) },
          view,
          format.width,
          Math.min(MOST, thing.most),
        ),
      )
      .then((made) => live && setCloud(made))
      .catch(() => undefined);
    return () => {
      live = false;
    };
    // The camera is told by its numbers.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pixels, input, seen, format.width, thing.most]);
  return cloud;
}
