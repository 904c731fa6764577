import type { Tap } from '@/core/document/types';
import { mapPoint } from '@/core/geometry/homography';
import { newPlane } from '@/core/readings/make';
import { measurePlane } from '@/core/readings/measure';
import type { PlaneReading, Reading } from '@/core/readings/types';
import { ellipsePoints, movePoints, shapeDefaults, withFollows, withPointsAt } from '@/core/shape/edit';
import { outlinePoints } from '@/core/shape/freehand';
import type { Shape } from '@/core/shape/shapes';
import { WALL_MARK, strideFar, strideNear, trueCoat, wallAt } from '@/demo/sg040';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node/host';
import { picturesOf } from '@/engine/reading-pictures';
import type { Written } from './demo-parts';
import { film, lane, lean, step, tenth } from './demo-parts';

/** The frame on which the regions were drawn. */
const HOME = 24;

/** SG040: the wall and the coat followed as planes, the mark hidden by a zone, both passers-by held in front of it by shapes. */
export async function wall(write: (name: string, shot: Written) => string): Promise<void> {
  const shot = film('sg040', 'SG040 harbour wall');
  shot.sources = [{ id: 'src-wall', name: 'wall plate', path: '../media/sg040/wall.####.jpg', colourSpace: 'Rec.709' }];
  shot.lanes = [lane('wall', 'wall', { source: 'src-wall' }, [])];
  shot.result = 'wall';
  const opened = await openShotFile(write('sg040', shot));
  const host = await nodeHost(opened.files);
  const from: Tap = { lane: 'wall', after: '' };
  const on = (list: readonly (readonly [number, number])[]): number[] => list.flatMap(([x, y]) => mapPoint(wallAt(HOME), x, y).map(tenth));
  const measure = async (made: PlaneReading): Promise<Reading> => ({
    ...made,
    frames: await measurePlane(await nodeKernels(), made, picturesOf(host, opened.shot, from)),
  });
  const about = (id: string, name: string) => ({ id, name, from, reference: HOME, range: shot.range });
  const high = on([
    [90, 60],
    [620, 60],
    [620, 205],
    [320, 205],
    [320, 290],
    [200, 290],
    [90, 205],
  ]);
  const stone = await measure(newPlane([high], about('stone', 'The wall')));
  const { x, y } = strideNear(HOME);
  const chest = on([
    [x - 24, y - 190],
    [x + 28, y - 190],
    [x + 38, y - 96],
    [x - 32, y - 96],
  ]);
  const flat = newPlane([chest], about('coat', 'The checked coat'));
  const coat = await measure({ ...flat, settings: { ...flat.settings, model: 'affine' } });
  shot.readings = lean([stone, coat]);

  const mark = mapPoint(wallAt(HOME), WALL_MARK.x, WALL_MARK.y);
  const r = WALL_MARK.r + 6;
  const shape = (id: string, name: string, mark: number, points: readonly number[], more: Partial<Shape> = {}): Shape => ({
    ...shapeDefaults,
    id,
    name,
    mark,
    keys: [{ frame: HOME, value: points, ease: 'linear' }],
    ...more,
  });
  const round = ellipsePoints(mark[0] - r, mark[1] - r, mark[0] + r, mark[1] + r).map(tenth);
  const hide = withFollows(shot, shape('mark-shape', 'Mark', 2, round, { feather: 5 }), ['stone']);
  // Drawn on the frame of the regions, put right at both ends: a point every few pixels of the outline.
  const drawn = (frame: number, of: typeof strideNear): number[] => outlinePoints(trueCoat(frame, of), 30).map(tenth);
  let near = withFollows(shot, shape('near-shape', 'Checked coat', 0, drawn(HOME, strideNear)), ['coat']);
  for (const f of [1, 48]) near = withPointsAt(shot, near, f, drawn(f, strideNear), 'here');
  let far = shape('far-shape', 'Blue coat', 1, drawn(38, strideFar), {
    keys: [{ frame: 38, value: drawn(38, strideFar), ease: 'linear' }],
  });
  // Nothing carries this one: it is put right on every frame on which it passes the mark.
  for (const f of [42, 43, 44, 45, 46, 47, 48]) far = withPointsAt(shot, far, f, drawn(f, strideFar), 'here');
  // Until it is needed it waits beside the frame.
  far = { ...far, keys: [{ frame: 1, value: movePoints(far.keys[0]!.value, null, (u, v) => [u + 2000, v]), ease: 'hold' }, ...far.keys] };

  const base = lane('wall', 'wall', { source: 'src-wall' }, [
    step('wall-mosaic', 'mosaic', 'Mosaic', { params: { size: 22, channels: 'colour' } }),
    step('wall-blur', 'blur', 'Blur', { params: { size: 5, channels: 'colour' } }),
    step('wall-over', 'join', 'Passers in front', { params: { operator: 'over' }, feeds: { front: { lane: 'passers' } } }),
  ]);
  write('sg040', {
    ...shot,
    lanes: [
      lane('passers', 'passers', { tap: from }, [
        step('passers-roto', 'roto', 'Passers by hand', { params: { shapes: [near, far] as never, effect: 'keep', shutter: 180 } }),
      ]),
      {
        ...base,
        zones: [
          {
            ...step('wall-zone', 'zone', 'Company mark', { params: { within: 'shapes', shapes: [hide] as never } }),
            type: 'zone',
            first: 'wall-mosaic',
            last: 'wall-blur',
          },
        ],
      },
    ],
  });
}
