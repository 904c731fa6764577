'use client';
import { useState } from 'react';
import type { PointerEvent } from 'react';
import type { Value } from '@/core/document';
import type { Vec3 } from '@/core/geometry';
import { backTo, seenBy } from '@/core/render';
import type { CameraReading } from '@/core/readings';
import { setParams } from '@/core/commands';
import { surfaceAt, surfaceChannelsOf, useSceneView } from '../../passes/surface';
import { usePlanes } from '../../passes/pass-pixels';
import { useInput } from '../../passes/use-input';
import type { StagePlace } from '../../stage/place';
import { toast } from '../../theme/toast';
import { useRun, useShot } from '../../workbench/context';
import type { Picking } from '../../workbench/state';
import { view } from '../../workbench/state';
import { useScene, useSceneSpace } from './use-scene';

/** CSS pixels around a point that count as a click on it. */
const NEAR = 16;

/** Where a thing shall stand: a click takes the camera's point there, the surface that a render shows, or the ground. */
export function ThingPick({ place, picking }: { place: StagePlace; picking: Picking }) {
  const shot = useShot();
  const run = useRun();
  const scene = useScene(picking.step);
  const input = useInput(picking.step);
  const passes = scene?.step.params.seen === 'passes';
  const surface = useSceneView(passes ? scene.step : undefined, input);
  const pixels = usePlanes(input, passes && input.info ? surfaceChannelsOf(scene.step, input.info) : []);
  const space = useSceneSpace(picking.step, place);
  const [said, setSaid] = useState<{ x: number; y: number; text: string } | null>(null);
  const thing = scene?.things.find((t) => t.id === picking.part);
  if (!scene || !thing) return null;
  const reading = shot.readings.find((r): r is CameraReading => r.id === scene.step.params.camera && r.kind === 'camera');

  const found = (e: PointerEvent): { text: string; params: Record<string, Value> } | null => {
    const box = e.currentTarget.getBoundingClientRect();
    const [cx, cy] = [e.clientX - box.left, e.clientY - box.top];
    const own = space?.from(cx, cy);
    const { view: camera } = scene;
    if (!own || !space || !camera) return null;
    if (passes) {
      const index = pixels ? pixels.indexAt(...own) : -1;
      const s = pixels && surface && input.info ? surfaceAt(scene.step, input.info, pixels, surface, index) : null;
      return s && { text: s.at.map((v) => v.toFixed(2)).join(', '), params: { stands: '', at: s.at.map((v) => Number(v.toFixed(4))) } };
    }
    let best: { id: string; d: number } | null = null;
    for (const p of reading?.solved?.points ?? []) {
      const at = p.used && scene.camera?.anchor(`point:${p.track}`);
      if (!at) continue;
      const [x, y, z] = seenBy(camera, [at[3]!, at[7]!, at[11]!]);
      if (!(z > 0)) continue;
      const [u, v] = space.at(x, y);
      const d = Math.hypot(u - cx, v - cy);
      if (d < NEAR && (!best || d < best.d)) best = { id: p.track, d };
    }
    if (best) return { text: `point ${best.id}`, params: { stands: `point:${best.id}`, at: [0, 0, 0] } };
    // The ray through the pixel meets the ground where its height is 0.
    const [near, far] = [backTo(camera, own[0], own[1], 1), backTo(camera, own[0], own[1], 2)];
    const t = near[1] / (near[1] - far[1]);
    if (!(1 + t > 0) || !Number.isFinite(t)) return null;
    const at = near.map((v, k) => Number((v + t * (far[k]! - v)).toFixed(4))) as unknown as Vec3;
    return { text: `ground ${at[0].toFixed(2)}, ${at[2].toFixed(2)}`, params: { stands: '', at: [...at] } };
  };
  return (
    <div
      className="overlay datapick"
      data-testid="thing-pick"
      style={{ pointerEvents: 'auto', cursor: 'crosshair' }}
      onPointerMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        setSaid({ x: e.clientX - box.left, y: e.clientY - box.top, text: found(e)?.text ?? 'nothing is there' });
      }}
      onPointerLeave={() => setSaid(null)}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        const hit = found(e);
        if (!hit) return toast('warning', 'There is neither a point nor ground there: click lower, or on a point.');
        const values = Object.fromEntries(Object.entries(hit.params).map(([k, v]) => [`${thing.id}.${k}`, v]));
        run(`Place ${thing.name}`, setParams(scene.step.id, values, view.get().frame));
        view.set({ picking: null });
      }}
    >
      {said && (
        <span className="data-said mono" style={{ left: said.x + 14, top: said.y + 10 }}>
          {said.text}
        </span>
      )}
    </div>
  );
}
