import type { Tap } from '@/core/document';
import { mapPoint } from '@/core/geometry';
import type { PlaneReading, Reading } from '@/core/readings';
import { measurePlane, newPlane } from '@/core/readings';
import type { Shape } from '@/core/shape';
import { ellipsePoints, movePoints, outlinePoints, shapeDefaults, withFollows, withPointsAt } from '@/core/shape';
import { CABLE_BOX, WALL_MARK, strideFar, strideNear, trueCoat, wallAt } from '@/demo/sg040';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node';
import { picturesOf } from '@/engine';
import { legLines } from '@/demo/walker';
import type { Written } from './demo-parts';
import { film, lane, lean, step, tenth, withRemoved, written } from './demo-parts';

/** The frame on which the regions were drawn, and one on which nobody stands before the box. */
const HOME = 24;
const BARE = 1;

/** Both legs of a passer-by on some frames that follow each other; before and after they wait beside the frame. */
function legShapes(id: string, name: string, of: typeof strideNear, frames: readonly number[]): Shape[] {
  return [0, 1].map((k) => {
    const points = (f: number): number[] => {
      const [hx, hy, fx, fy] = legLines(of(f))[k]!;
      return [mapPoint(wallAt(f), hx, hy), mapPoint(wallAt(f), fx, fy)].flatMap(([x, y]) => [tenth(x), tenth(y), 0, 0, 0, 0, 0]);
    };
    const away = movePoints(points(frames[0]!), null, (x, y) => [x + 2000, y]);
    const after = frames.at(-1)! + 1;
    return {
      ...shapeDefaults,
      id: `${id}-leg-${k + 1}`,
      name: `${name}, leg ${k + 1}`,
      mark: id === 'near' ? 0 : 1,
      closed: false,
      width: 21,
      keys: [
        ...(frames[0]! > 1 ? [{ frame: 1, value: away, ease: 'hold' as const }] : []),
        ...frames.map((frame) => ({ frame, value: points(frame), ease: 'linear' as const })),
        ...(after <= 48 ? [{ frame: after, value: away, ease: 'hold' as const }] : []),
      ],
    };
  });
}

const span = (from: number, to: number): number[] => Array.from({ length: to - from + 1 }, (_, i) => from + i);

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
  // Nothing carries this one: it is put right on every frame on which it passes the box or the mark; else it waits beside the frame.
  const away = movePoints(drawn(13, strideFar), null, (u, v) => [u + 2000, v]);
  let far = shape('far-shape', 'Blue coat', 1, away, { keys: [{ frame: 1, value: away, ease: 'hold' }] });
  for (const f of [...span(13, 30), ...span(37, 48)]) far = withPointsAt(shot, far, f, drawn(f, strideFar), 'here');
  far = withPointsAt(shot, far, 31, away, 'here');
  far = { ...far, keys: far.keys.map((k) => ({ ...k, ease: k.frame === 1 || k.frame === 31 ? 'hold' : 'linear' })) };

  // Legs are lines of a width, put where they are on each frame on which they pass the pipe.
  const legs = [...legShapes('near', 'Checked coat', strideNear, span(38, 48)), ...legShapes('far', 'Blue coat', strideFar, span(13, 30))];

  const base = lane('wall', 'wall', { source: 'src-wall' }, [
    step('wall-mosaic', 'mosaic', 'Mosaic', { params: { size: 22, channels: 'colour' } }),
    step('wall-blur', 'blur', 'Blur', { params: { size: 5, channels: 'colour' } }),
    step('wall-over', 'join', 'Passers in front', { params: { operator: 'over' }, feeds: { front: { lane: 'passers' } } }),
  ]);
  const finished: Written = {
    ...shot,
    lanes: [
      lane('passers', 'passers', { tap: from }, [
        step('passers-roto', 'roto', 'Passers by hand', {
          params: { shapes: [near, far, ...legs] as never, effect: 'keep', shutter: 180 },
        }),
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
  };
  // The box goes as the command takes it out: texture from around it, on a frame on which nobody stands before it.
  const ready = await openShotFile(write('sg040', finished));
  const [[l, t], , [right, b]] = CABLE_BOX;
  const pipe = (l + right) / 2;
  const outline = [
    [l - 5, t - 5],
    [right + 5, t - 5],
    [right + 19, t + 4],
    [right + 19, b + 22],
    [pipe + 24, b + 22],
    [pipe + 12, 445],
    [pipe - 12, 445],
    [pipe - 12, b + 22],
    [l - 5, b + 22],
  ].flatMap(([x, y]) => mapPoint(wallAt(BARE), x!, y!).map(tenth));
  const done = await withRemoved(
    await nodeHost(ready.files),
    ready.shot,
    {
      tap: { lane: 'wall', after: '' },
      outlines: [outline],
      frame: BARE,
      by: 'patches',
      reading: 'stone',
      front: 'passers',
      name: 'Cable box',
    },
    'box',
  );
  write('sg040', written(done, shot.sources));
}
