'use client';
import { Arrow, Circle, Group, Layer, Line, Stage as KonvaStage, Text } from 'react-konva';
import type { Vec3 } from '@/core/geometry';
import { backTo, pointA3, seenBy } from '@/core/render';
import type { Thing } from '@/core/space';
import { setParams } from '@/core/commands';
import { useDrag } from '../../stage/handles/use-drag';
import type { StagePlace } from '../../stage/place';
import { tokens } from '../../theme/tokens';
import { useRun, useSelectedLimited, useShot } from '../../workbench/context';
import { useView, view } from '../../workbench/state';
import { linesOf } from './outline';
import { aspectOf, useModelShape, useScene, useSceneSpace } from './use-scene';

/** CSS pixels that the arrows of the axes are long. */
const REACH = 62;
/** Along x, y and z. */
export const AXES = [
  { colour: '#d9776a', of: [1, 0, 0] },
  { colour: '#8fbf6b', of: [0, 1, 0] },
  { colour: '#7aa5d6', of: [0, 0, 1] },
] as const;

const round = (v: Vec3): number[] => v.map((x) => Number(x.toPrecision(6)));

/** Things of the scene on the picture: a dot each, the chosen one with its outline and arrows. Dragged by its middle it keeps its distance; with Alt it comes nearer and goes farther. */
export function ThingHandle({ place }: { place: StagePlace }) {
  const shot = useShot();
  const run = useRun();
  const frame = useView((s) => s.frame);
  const chosen = useView((s) => s.thing);
  const room = useView((s) => s.roomView);
  const selected = useSelectedLimited()!;
  const scene = useScene(selected.step.id);
  const dragOf = useDrag();
  const space = useSceneSpace(selected.step.id, place);
  const thing = scene?.things.find((t) => t.id === chosen);
  const model = useModelShape(thing && shot.sources.find((s) => s.id === thing.model));
  if (room || !scene?.view || !space) return null;
  const camera = scene.view;
  const onStage = (p: Vec3): [number, number] | null => {
    const [x, y, z] = seenBy(camera, p);
    return z > 1e-3 ? space.at(x, y) : null;
  };
  const middle = (t: Thing): Vec3 => (t.what === 'light' ? scene.inWorld(t, t.at) : pointA3(scene.place(t), [0, 0, 0]));
  const move = (t: Thing, to: Vec3, gesture: string): void =>
    void run(`Move ${t.name}`, setParams(scene.step.id, { [`${t.id}.at`]: round(scene.inOwn(t, to)) }, frame), gesture);
  const lines = thing ? linesOf(thing, scene.place(thing), aspectOf(shot, scene.step, thing.id), model) : [];
  const own = thing && middle(thing);
  const ownAt = own && onStage(own);
  return (
    <div className="overlay live" data-testid="things" data-chosen={ownAt?.map(Math.round).join()}>
      <KonvaStage width={place.width} height={place.height}>
        <Layer>
          {lines.map((line, i) => {
            const points = line.map(onStage);
            return points.every((p) => p !== null) ? (
              <Line key={i} points={points.flat() as number[]} stroke={tokens.bone} strokeWidth={1} opacity={0.8} listening={false} />
            ) : null;
          })}
          {scene.things.map((t) => {
            const at = t.on ? onStage(middle(t)) : null;
            if (!at) return null;
            const mine = t.id === chosen;
            const grab = dragOf(
              () => ({ from: middle(t), z: seenBy(camera, middle(t))[2] }),
              ({ from, event, at: pointer, dx, dy, gesture }) => {
                const [x, y] = seenBy(camera, from.from);
                const there = event.altKey ? [x, y] : space.from(...pointer);
                const far = event.altKey ? Math.max(0.01, from.z * Math.exp(-dy / 200)) : from.z;
                if (Math.abs(dx) + Math.abs(dy) > 1) move(t, backTo(camera, there[0]!, there[1]!, far), gesture);
              },
            );
            return (
              <Group key={t.id} x={at[0]} y={at[1]}>
                <Circle
                  radius={mine ? 6 : 4}
                  fill={mine ? tokens.bone : tokens.wall}
                  stroke={mine ? tokens.pit : tokens.bone}
                  strokeWidth={1.2}
                  hitStrokeWidth={14}
                  {...grab}
                  onPointerDown={(e) => {
                    view.set({ thing: t.id });
                    grab.onPointerDown(e);
                  }}
                />
                {(mine || scene.things.length < 8) && (
                  <Text x={9} y={7} text={t.name} fill={tokens.bone} fontSize={11} shadowColor="#000" shadowBlur={3} listening={false} />
                )}
              </Group>
            );
          })}
          {thing &&
            own &&
            ownAt &&
            AXES.map(({ colour, of }, k) => {
              // How far the arrow's end is, so that it is as long on the picture whatever the distance.
              const step = seenBy(camera, own)[2] / camera.focal;
              const tip = onStage([own[0] + of[0] * step, own[1] + of[1] * step, own[2] + of[2] * step]);
              if (!tip) return null;
              const [ux, uy] = [tip[0] - ownAt[0], tip[1] - ownAt[1]];
              const long = Math.hypot(ux, uy);
              if (long < 0.05) return null;
              const end = [(REACH * ux) / place.zoom, (REACH * uy) / place.zoom] as const;
              return (
                <Arrow
                  key={k}
                  x={ownAt[0]}
                  y={ownAt[1]}
                  points={[0.14 * end[0], 0.14 * end[1], end[0], end[1]]}
                  stroke={colour}
                  fill={colour}
                  strokeWidth={2}
                  pointerLength={7}
                  pointerWidth={7}
                  hitStrokeWidth={12}
                  {...dragOf(
                    () => own,
                    ({ from, dx, dy, gesture }) => {
                      // Pixels along the arrow as a length in the world.
                      const by = ((dx * ux + dy * uy) / (long * long)) * step;
                      move(thing, [from[0] + of[0] * by, from[1] + of[1] * by, from[2] + of[2] * by], gesture);
                    },
                  )}
                />
              );
            })}
        </Layer>
      </KonvaStage>
    </div>
  );
}
