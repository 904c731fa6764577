'use client';
import { Circle, Group, Layer, Line, Stage as KonvaStage, Text } from 'react-konva';
import type { Step } from '@/core/document';
import { findStep, resolveParam } from '@/core/document';
import type { Part } from '@/core/params';
import { partKey } from '@/core/params';
import type { Vec3 } from '@/core/geometry';
import { project, unproject } from '@/core/passes';
import { setParams } from '@/core/commands';
import { useDrag } from '../stage/handles/use-drag';
import { useStepSpace } from '../stage/handles/use-step-space';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { useRun, useSelectedLimited, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { useSceneView } from './surface';
import { useInput } from './use-input';

/** Points of the scene that a step's parameters name: lamps, or the middle of a matte. */
function pointsOf(step: Step): { param: string; label: string; lamp: boolean }[] {
  if (step.type === 'positionMatte') return [{ param: 'centre', label: '', lamp: false }];
  const lamps = (Array.isArray(step.params.lamps) ? step.params.lamps : []) as unknown as readonly Part[];
  return lamps
    .filter((l) => step.params[partKey(l.id, 'kind')] !== 'sun')
    .flatMap((l) => [
      { param: partKey(l.id, 'at'), label: l.name, lamp: true },
      ...(step.params[partKey(l.id, 'kind')] === 'spot'
        ? [{ param: partKey(l.id, 'aim'), label: `${l.name} points here`, lamp: false }]
        : []),
    ]);
}

/** Points of the scene on the picture: dragged, they keep their distance from the camera; with Alt, they come nearer and go farther. */
export function ScenePointHandle({ place }: { place: StagePlace }) {
  const shot = useShot();
  const run = useRun();
  const frame = useView((s) => s.frame);
  const selected = useSelectedLimited()!;
  const dragOf = useDrag();
  const input = useInput(selected.step.id);
  const { tap } = input;
  const step = findStep(shot, selected.step.id)?.step;
  const scene = useSceneView(step, input);
  const space = useStepSpace(tap ?? { lane: '' }, place);
  if (!step || !scene || !space) return null;
  const { camera } = scene;
  return (
    <div className="overlay live" data-testid="scene-points">
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {pointsOf(step).map(({ param, label, lamp }) => {
            const at = resolveParam(shot, step.params[param], [0, 0, 0], frame) as unknown as Vec3;
            const [x, y, z] = project(camera, at);
            if (!(z > 0)) return null;
            const [u, v] = space.at(x, y);
            const grab = dragOf(
              () => ({ at, z }),
              ({ from, event, at: pointer, dy, gesture }) => {
                const far = event.altKey ? Math.max(0.01, from.z * Math.exp(-dy / 200)) : from.z;
                const [px, py] = event.altKey ? project(camera, from.at) : space.from(...pointer);
                const moved = unproject(camera, px, py, far).map((c) => Number(c.toPrecision(5)));
                run(lamp ? 'Move lamp' : 'Move', setParams(step.id, { [param]: moved }, frame), gesture);
              },
            );
            return (
              <Group key={param} x={u} y={v}>
                {lamp &&
                  [0, 1, 2, 3, 4, 5, 6, 7].map((k) => {
                    const a = (Math.PI * k) / 4;
                    return (
                      <Line
                        key={k}
                        points={[11 * Math.cos(a), 11 * Math.sin(a), 15 * Math.cos(a), 15 * Math.sin(a)]}
                        stroke={tokens.bone}
                        strokeWidth={1.5}
                        listening={false}
                      />
                    );
                  })}
                {!lamp && <Line points={[-11, 0, 11, 0]} stroke={tokens.bone} strokeWidth={1} listening={false} />}
                {!lamp && <Line points={[0, -11, 0, 11]} stroke={tokens.bone} strokeWidth={1} listening={false} />}
                <Circle radius={6} fill={tokens.bone} stroke={tokens.pit} hitStrokeWidth={16} {...grab} />
                {label && <Text x={18} y={-6} text={label} fill={tokens.bone} fontSize={11} listening={false} />}
              </Group>
            );
          })}
        </Layer>
      </KonvaStage>
    </div>
  );
}
