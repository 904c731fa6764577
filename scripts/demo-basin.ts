import type { Draft } from 'immer';
import { produce } from 'immer';
import type { Param, Shot } from '@/core/document';
import { measureGrain } from '@/core/grain';
import { RGBA } from '@/core/picture';
import { BUOY, DEEP, ELEMENT, FOCUS, HEIGHT, LENS, MIRRORED, PUSH, WIDTH } from '@/demo/sg080';
import { planesOf } from '@/core/cleaning';
import { nodeHost, openShotFile } from '@/engine/node';
import type { Written } from './demo-parts';
import { film, lane, step } from './demo-parts';

const LAST = 24;
const SOURCES = [
  { id: 'src-basin', name: 'basin plate', path: '../media/sg080/basin.####.jpg', colourSpace: 'Rec.709' },
  { id: 'src-buoy', name: 'buoy', path: '../media/sg080/buoy.exr', colourSpace: 'linear' },
  { id: 'src-ripples', name: 'ripples', path: '../media/sg080/ripples.####.jpg', colourSpace: 'linear' },
  { id: 'src-embers', name: 'embers', path: '../media/elements/embers.####.png', colourSpace: 'sRGB' },
  { id: 'src-fog', name: 'fog bank', path: '../media/elements/fog.####.png', colourSpace: 'sRGB' },
  { id: 'src-smoke', name: 'smoke', path: '../media/elements/smoke.####.png', colourSpace: 'sRGB' },
  { id: 'src-dirt', name: 'lens dirt', path: '../media/elements/lens-dirt.png', colourSpace: 'sRGB' },
];
const six = (list: readonly number[]): number[] => list.map((v) => Number(v.toPrecision(6)));
const round = (v: number): number => Math.round(v * 10) / 10;

/** SG080 twice: the buoy and its turned copy just laid over the basin; and seated. */
export async function basin(write: (name: string, shot: Written) => string): Promise<void> {
  const turn = step('mirror-turn', 'transform', 'Turn over', { params: { scale: [1, -1], pivot: [0, BUOY.water - HEIGHT / 2] } });
  const joins = [
    step('basin-mirror', 'join', 'Reflection', { feeds: { front: { lane: 'mirror' } } }),
    step('basin-buoy', 'join', 'Buoy', { feeds: { front: { lane: 'buoy' } } }),
  ];
  const made = (id: string, name: string, lanes: Shot['lanes']): Written => {
    const shot = produce(film(id, name) as unknown as Shot, (d: Draft<Shot>) => {
      d.range = { first: 1, last: LAST };
      d.lanes = lanes as Draft<Shot['lanes']>;
      d.result = 'basin';
    });
    return { ...shot, sources: SOURCES } as unknown as Written;
  };
  const begun = made('sg080-begun', 'SG080 reflection, begun', [
    lane('mirror', 'reflection', { tap: { lane: 'buoy', after: '' } }, [turn]),
    lane('buoy', 'buoy', { source: 'src-buoy' }, []),
    lane('basin', 'basin', { source: 'src-basin' }, joins),
  ]);
  const opened = await openShotFile(write('sg080-begun', begun));
  const host = await nodeHost(opened.files);
  const looks = [];
  for (const frame of [1, 7, 13, 19, 24]) {
    const { pixels } = await host.render(opened.shot, { tap: { lane: 'basin', after: '' }, frame, scale: 1, channels: RGBA });
    looks.push({ w: WIDTH, h: HEIGHT, planes: planesOf(pixels).planes });
  }
  const grain = measureGrain(looks) as unknown as Param;
  const focus = { radius: FOCUS.radius, by: 'ramp', from: [0, FOCUS.from - HEIGHT / 2], to: [0, HEIGHT / 2] } as const;
  const seated = made('sg080', 'SG080 reflection', [
    lane('ripples', 'ripples', { source: 'src-ripples' }, []),
    lane('reach', 'how far', { empty: true }, [
      step('reach-ramp', 'ramp', 'From the waterline', { params: { from: [0, BUOY.water], to: [0, HEIGHT] } }),
      step('reach-matte', 'routeChannels', 'As a matte', { params: { A: 'luma' } }),
    ]),
    lane('mirror', 'reflection', { tap: { lane: 'buoy', after: 'buoy-grade' } }, [
      turn,
      step('mirror-ripples', 'displace', 'Ripples', {
        params: { amount: [2 * PUSH.x, 2 * PUSH.y], soften: 0.7, edge: 'empty' },
        feeds: { driver: { lane: 'ripples' }, reach: { lane: 'reach' } },
      }),
      step('mirror-water', 'grade', 'What the water keeps', { params: { slope: [...MIRRORED], offset: [...DEEP] } }),
      step('mirror-focus', 'defocus', 'Near water out of focus', { params: focus }),
      step('mirror-soft', 'blur', 'As soft as the plate', { params: { size: LENS.sigma } }),
      step('mirror-grain', 'grain', "The plate's grain", { params: { measured: grain, seed: 2 } }),
    ]),
    lane('buoy', 'buoy', { source: 'src-buoy' }, [
      step('buoy-grade', 'grade', 'Match to plate', {
        params: { slope: six(ELEMENT.gain.map((g) => 1 / g)), offset: six(ELEMENT.gain.map((g, c) => -ELEMENT.lift[c]! / g)) },
      }),
      step('buoy-soft', 'blur', 'As soft as the plate', { params: { size: round(LENS.sigma) } }),
      step('buoy-wrap', 'lightWrap', 'Bright sky behind', {
        params: { amount: LENS.scattered, soft: LENS.wide, width: 80, threshold: -20 },
      }),
      step('buoy-grain', 'grain', "The plate's grain", { params: { measured: grain } }),
    ]),
    lane('basin', 'basin', { source: 'src-basin' }, joins),
  ]);
  write('sg080', seated);
}
