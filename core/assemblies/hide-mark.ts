import type { Tap, Zone } from '../document';
import { boxAround } from '../geometry';
import { cornersToPoints } from '../shape';
import { addPlane } from '../commands/readings';
import type { Change } from '../commands/change';
import { laneOf, stepOf } from '../commands/change';
import { addStep, setParams } from '../commands/commands';
import { freeName } from '../commands/make';
import { addShapes } from '../commands/shapes';
import { gatherZone } from '../commands/zones';

/** Softness of the zone's edge, px. */
const FEATHER = 5;

/**
 * Hides what is drawn around on a frame, at a point of a lane: a plane to be measured there, and behind it a zone of mosaic and blur whose shape
 * follows that plane. `outline` is x and y of corners; tiles are a fifth of its smaller side.
 */
export const hideMark =
  (tap: Tap, outline: readonly number[], frame: number, made: { reading?: string; zone?: string } = {}): Change =>
  (s) => {
    const lane = laneOf(s, tap.lane);
    const after = tap.after ?? lane.steps.at(-1)?.id ?? '';
    addPlane({ lane: lane.id, after }, outline, frame, made)(s);
    const reading = s.readings.find((r) => r.id === made.reading)!;
    reading.name = freeName(
      'Mark 1',
      s.readings.filter((r) => r !== reading).map((r) => r.name),
    );
    const { x0, y0, x1, y1 } = boxAround([outline]);
    const tile = Math.max(4, Math.round(Math.min(x1 - x0, y1 - y0) / 5));
    const [mosaic, blur]: { step?: string }[] = [{}, {}];
    addStep(lane.id, 'mosaic', after, mosaic, false)(s);
    addStep(lane.id, 'blur', mosaic!.step, blur, false)(s);
    setParams(mosaic!.step!, { size: tile, channels: 'colour' }, frame)(s);
    setParams(blur!.step!, { size: Math.max(1, Math.round(tile / 4)), channels: 'colour' }, frame)(s);
    gatherZone([mosaic!.step!, blur!.step!], made)(s);
    const zone = stepOf(s, made.zone!).step as unknown as Zone;
    zone.name = freeName(
      reading.name,
      (lane.zones ?? []).filter((z) => z.id !== zone.id).map((z) => z.name),
    );
    zone.params = { within: 'shapes' };
    addShapes(zone.id, [{ name: 'Mark', points: cornersToPoints(outline), feather: FEATHER, follows: [reading.id] }], frame)(s);
  };
