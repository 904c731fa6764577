import type { Param, Tap } from '@/core/document';
import { applyHomography, mapPoint } from '@/core/geometry';
import { sampleBox } from '@/core/keying';
import { RGBA } from '@/core/picture';
import type { Reading } from '@/core/readings';
import { measurePlane, measurePoint, newPlane, newPoint } from '@/core/readings';
import { PANEL, tableAt } from '@/demo/sg020';
import { MARK, shakeAt } from '@/demo/sg060';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node';
import { picturesOf } from '@/engine';
import type { Written } from './demo-parts';
import { film, lane, lean, step, tenth, withRemoved, written } from './demo-parts';

type Write = (name: string, shot: Written) => string;

/** SG060: its mark followed and the plate locked on it, filled by the least scale. */
export async function mooring(write: Write): Promise<void> {
  const shot = film('sg060', 'SG060 mooring');
  shot.sources = [{ id: 'src-mooring', name: 'mooring plate', path: '../media/sg060/mooring.####.jpg', colourSpace: 'Rec.709' }];
  shot.lanes = [lane('mooring', 'mooring', { source: 'src-mooring' }, [])];
  shot.result = 'mooring';
  const opened = await openShotFile(write('sg060', shot));
  const host = await nodeHost(opened.files);
  const from: Tap = { lane: 'mooring', after: '' };
  const at = applyHomography(shakeAt(24), ...MARK);
  const made = newPoint([tenth(at[0]), tenth(at[1])], { id: 'mark', name: 'The painted seven', from, reference: 24, range: shot.range });
  const point = { ...made, settings: { ...made.settings, pattern: [-23, -25, 24, 26], model: 'similarity' } as const };
  const measured: Reading = { ...point, frames: await measurePoint(await nodeKernels(), point, picturesOf(host, opened.shot, from)) };
  shot.readings = lean([measured]);
  shot.lanes[0]!.steps = [step('steady', 'stabilise', 'Steady', { params: { reading: 'mark' } })];
  write('sg060', shot);
}

/** SG020: the panel followed as a plane, the tide chart pinned to it in the panel's own light, the arm held out. And the same begun. */
export async function table(write: Write): Promise<void> {
  const begun = film('sg020-begun', 'SG020 chart table, begun');
  begun.sources = [
    { id: 'src-table', name: 'table plate', path: '../media/sg020/table.####.jpg', colourSpace: 'Rec.709' },
    { id: 'src-tide', name: 'tide chart', path: '../media/sg020/tide.####.png', colourSpace: 'sRGB' },
    { id: 'src-empty', name: 'table, frame 1', path: '../media/sg020/table.0001.jpg', colourSpace: 'Rec.709' },
  ];
  begun.lanes = [lane('table', 'table', { source: 'src-table' }, [])];
  begun.result = 'table';
  const opened = await openShotFile(write('sg020-begun', begun));
  const host = await nodeHost(opened.files);
  const from: Tap = { lane: 'table', after: '' };
  const on = (x: number, y: number): [number, number] => mapPoint(tableAt(1), x, y).map(tenth) as [number, number];
  const around = (d: number): number[] => PANEL.flatMap(([x, y], i) => on(x + (i === 0 || i === 3 ? -d : d), y + (i < 2 ? -d : d)));
  const made = newPlane([around(70)], { id: 'panel', name: 'The panel', from, reference: 1, range: begun.range });
  const plane = { ...made, region: { shapes: [around(70)], without: [around(-4)] }, surface: PANEL.map(([x, y]) => on(x, y)) as never };
  const measured: Reading = { ...plane, frames: await measurePlane(await nodeKernels(), plane, picturesOf(host, opened.shot, from)) };

  const look = async (frame: number) => host.render(opened.shot, { tap: from, frame, scale: 1, channels: RGBA });
  const [empty, crossed] = [await look(1), await look(24)];
  const sample = (r: typeof empty, frame: number, box: readonly [number, number, number, number], of: 'screen' | 'subject') =>
    sampleBox(r.pixels, 960, box, frame, of);
  const samples = [
    sample(empty, 1, [390, 150, 640, 340], 'screen'),
    sample(crossed, 24, [340, 130, 480, 300], 'screen'),
    sample(crossed, 24, [600, 285, 652, 322], 'subject'),
    sample(crossed, 24, [520, 238, 552, 260], 'subject'),
  ];
  const finished: Written = {
    ...begun,
    id: 'sg020',
    name: 'SG020 chart table',
    readings: lean([measured]),
    lanes: [
      lane('tide', 'tide chart', { source: 'src-tide' }, [
        step('tide-size', 'conform', 'Size', { params: { fit: 'stretch' } }),
        step('tide-light', 'join', "The panel's light", { params: { operator: 'multiply' }, feeds: { front: { lane: 'light' } } }),
        step('tide-grade', 'grade', 'Match the light', { params: { exposure: 1.05, slope: [1, 1.03, 1.135] } }),
        step('tide-soft', 'blur', 'Defocus', { params: { size: 1.2, channels: 'colour' } }),
        step('tide-pin', 'cornerPin', 'Pin', { params: { from: 'plane', plane: 'panel', shutter: 180 } }),
        step('tide-arm', 'combineMattes', 'Arm in front', { params: { operation: 'subtraction' }, feeds: { other: { lane: 'arm' } } }),
      ]),
      lane('arm', 'arm', { tap: from }, [
        step('arm-key', 'rangeKey', 'Arm against panel', { params: { samples, softness: 3 } }),
        step('arm-tidy', 'tidyMatte', 'Marks away', { params: { specks: 60, holes: 10, follow: false } }),
        step('arm-soft', 'softenMatte', 'Soften', { params: { size: 0.8, follow: false } }),
      ]),
      lane('light', "panel's light", { source: 'src-empty' }, [
        step('light-flat', 'cornerPin', 'Lay flat', { params: { ...pins(measured), unwrap: true } }),
        step('light-soft', 'blur', 'Marks away', { params: { size: 60 } }),
      ]),
      {
        ...begun.lanes[0]!,
        steps: [step('table-over', 'join', 'over', { params: { operator: 'over' }, feeds: { front: { lane: 'tide' } } })],
      },
    ],
  };
  // The four marks go before the chart comes: from the panel around each, behind the arm.
  const ready = await openShotFile(write('sg020', finished));
  const [[l, t], , [r, b]] = PANEL;
  const marks = [
    [l + 20, t + 20],
    [r - 20, t + 20],
    [r - 20, b - 20],
    [l + 20, b - 20],
  ].map(([x, y]) => [-10, -10, 10, -10, 10, 10, -10, 10].flatMap((d, i, all) => (i % 2 ? [] : on(x! + d, y! + all[i + 1]!))));
  const done = await withRemoved(
    await nodeHost(ready.files),
    ready.shot,
    { tap: from, outlines: marks, frame: 1, by: 'smooth', reading: 'panel', front: 'arm', name: 'Marks off' },
    'marks',
  );
  write('sg020', written(done, begun.sources));
}

/** The surface's corners on the reference frame, as a corner pin's. */
function pins(r: Reading): Record<string, Param> {
  if (r.kind !== 'plane') return {};
  const home = [
    [0, 0],
    [960, 0],
    [960, 540],
    [0, 540],
  ] as const;
  const names = ['topLeft', 'topRight', 'bottomRight', 'bottomLeft'] as const;
  return Object.fromEntries(names.map((n, i) => [n, r.surface[i]!.map((v, k) => tenth(v - home[i]![k]!))]));
}
