import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Draft } from 'immer';
import { produce } from 'immer';
import { hexOfId, idOfName, readExr } from '@/core/formats';
import type { Key, Lane, Param, Shot } from '@/core/document';
import type { PassFrame, PassNote } from '@/core/passes';
import { guessPasses } from '@/core/passes';
import { nodeKernels } from '@/engine/node';
import type { Written } from './demo-parts';
import { film, lane, step } from './demo-parts';

const root = process.env.OSTRACON_ROOT ?? '.';
const LAST = 24;

/** What the passes of a source are, as bringing it in finds out. */
async function passesOf(name: string): Promise<Record<string, PassNote>> {
  const kernels = await nodeKernels();
  const frameOf = (frame: number): PassFrame => {
    const file = `${name}.${String(frame).padStart(4, '0')}.exr`;
    const { planes, bounds, format } = readExr(new Uint8Array(readFileSync(join(root, 'demo/media/sg030', file))), file, kernels);
    return { planes, bounds, format, channels: Object.keys(planes) };
  };
  return guessPasses(frameOf(1), frameOf(2));
}

const keyed = (values: readonly [number, Param & (number | readonly number[])][], ease: Key['ease'] = 'smooth'): Param => ({
  keys: values.map(([frame, value]) => ({ frame, value, ease })),
});
const thing = (name: string) => ({ id: hexOfId(idOfName(name)), name });
const list = (items: readonly object[]): Param => items as Param;

/** A lamp that burns low and flares up, in stops. */
const FLICKER: Param = keyed(
  [
    [1, 0],
    [4, -0.5],
    [6, 0.25],
    [8, -0.15],
    [11, -1.1],
    [13, 0.3],
    [16, 0.1],
    [18, -0.4],
    [20, 0.2],
    [24, 0],
  ],
  'linear',
);

export async function diver(write: (name: string, shot: object) => string): Promise<void> {
  const diverPasses = await passesOf('diver');
  const parts = ['diffuse', 'specular', 'reflection', 'emission'].map((name) => ({ id: name, name }));
  const lamps = ['light_rim', 'light_lamp', 'light_sky', 'light_key'].map((name) => ({ id: name, name }));
  const lens = { focal: 49.6, filmWidth: 36 };
  const own: Lane[] = [
    lane('verdigris', 'verdigris', { empty: true }, [
      step('verdigris-noise', 'noise', 'Patina', {
        params: { size: 90, octaves: 6, contrast: 2.2, low: [0.2, 0.11, 0.04], high: [0.06, 0.2, 0.15], seed: 5 },
      }),
    ]),
    lane('corselet', 'corselet matte', { source: 'src-diver' }, [
      step('corselet-id', 'idMatte', 'Corselet by ID', { params: { things: list([thing('corselet')]) } }),
    ]),
    lane('diver', 'diver', { source: 'src-diver' }, [
      step('diver-rebuild', 'rebuildBeauty', 'Rebuild beauty', {
        params: { parts: list(parts), 'specular.gain': 0.35, 'reflection.saturation': 0.8, 'diffuse.tint': [0.96, 1, 1.04] },
      }),
      step('diver-lights', 'lightMix', 'Light mix', {
        params: {
          lamps: list(lamps),
          'light_rim.gain': -0.9,
          'light_rim.kelvin': 5200,
          'light_lamp.gain': FLICKER,
          'light_lamp.kelvin': 5600,
        },
      }),
      step('diver-texture', 'uvTexture', 'Verdigris on the plate', {
        params: { repeat: [3, 2], opacity: 0.75 },
        feeds: { texture: { lane: 'verdigris' } },
        mask: { lane: 'corselet', channel: 'A', invert: false },
      }),
      step('diver-relight', 'relight', 'Lamp behind the bollard', {
        params: {
          lamps: list([{ id: 'doorway', name: 'Doorway' }]),
          'doorway.at': [-1.05, 0.55, 0.65],
          'doorway.tint': [1, 0.62, 0.34],
          'doorway.gain': 0.4,
          thick: 0.25,
        },
      }),
      step('diver-grade', 'grade', 'Match the quay', { params: { exposure: -0.2, slope: [1.03, 0.99, 0.9], contrast: 1.04 } }),
      step('diver-smoke', 'scene', 'Smoke about him', {
        params: {
          seen: 'passes',
          behind: true,
          give: 'layers',
          soft: 0.3,
          things: list([{ id: 'smoke', name: 'Smoke' }]),
          // Through him: before one shoulder and behind the other.
          'smoke.at': [-0.15, 1.15, 0.22],
          'smoke.turn': [0, 24, 0],
          'smoke.size': 2.1,
          'smoke.casts': false,
          'smoke.tint': [1.25, 1.15, 1.05],
        },
        feeds: { 'smoke.picture': { lane: 'smoke' } },
      }),
    ]),
    lane('lamp-glow', 'lamp glow', { tap: { lane: 'diver' } }, [
      step('lamp-cut', 'idMatte', 'Lamp by ID', { params: { things: list([thing('lamp')]), gives: 'cut' } }),
      step('lamp-blur', 'blur', 'Spread', { params: { size: 46 } }),
      step('lamp-grade', 'grade', 'Warm', { params: { exposure: -0.3, slope: [1, 0.72, 0.4], unpremultiply: false } }),
    ]),
    lane('mirror', 'diver in the wet', { tap: { lane: 'diver' } }, [
      step('mirror-turn', 'transform', 'Turn over', {
        params: { scale: [1, -0.82], pivot: [0, 222], translate: [0, 0], filter: 'bilinear' },
      }),
      step('mirror-blur', 'blur', 'Water', { params: { size: 5, ratio: 0.4 } }),
      step('mirror-grade', 'grade', 'Darken', { params: { exposure: -0.9, slope: [1, 0.95, 0.9], unpremultiply: false } }),
    ]),
    lane('smoke', 'smoke', { source: 'src-smoke' }, [
      step('smoke-slow', 'retime', 'Slower', { params: { speed: 0.62, between: 'blend' } }),
    ]),
    lane('spray', 'spray', { source: 'src-spray' }, []),
    lane('quay', 'quay', { source: 'src-quay' }, [
      { ...step('quay-mirror', 'join', 'Reflection', { params: { operator: 'over' }, feeds: { front: { lane: 'mirror' } } }), mix: 0.6 },
      step('quay-diver', 'joinDepth', 'Diver, with its data', { params: { backDepth: 11, ...lens }, feeds: { front: { lane: 'diver' } } }),
      step('quay-haze', 'haze', 'Night air', {
        params: { colour: [0.03, 0.042, 0.062], density: 0.05, start: 4.5, uneven: 0.4, size: 260, ...lens },
      }),
      step('quay-glow', 'join', 'Lamp glow', { params: { operator: 'plus' }, feeds: { front: { lane: 'lamp-glow' } } }),
      step('quay-spray', 'joinDepth', 'Spray in front', {
        params: { order: 'front', frontDepth: 5.2, ...lens },
        feeds: { front: { lane: 'spray' } },
      }),
      step('quay-focus', 'depthOfField', 'Pull from the quay', {
        params: {
          focus: keyed([
            [1, 11],
            [5, 11],
            [17, 6.05],
          ]),
          stop: 0.28,
          most: 30,
          ...lens,
        },
      }),
      step('quay-motion', 'vectorBlur', 'Shutter', { params: { shutter: 180, ...lens } }),
    ]),
  ];
  const start = film('sg030', 'SG030 brass diver');
  const shot = produce(start as unknown as Shot, (d: Draft<Shot>) => {
    d.range = { first: 1, last: LAST };
    d.lanes = own as Draft<Lane[]>;
    d.result = 'quay';
    d.notes = [];
  }) as unknown as Written & { sources: (Written['sources'][number] & { passes?: Record<string, PassNote> })[] };
  const sources = [
    { id: 'src-diver', name: 'diver passes', path: '../media/sg030/diver.####.exr', passes: diverPasses },
    { id: 'src-quay', name: 'wet quay', path: '../media/sg030/quay.####.jpg', colourSpace: 'Rec.709' },
    { id: 'src-smoke', name: 'smoke', path: '../media/elements/smoke.####.png', colourSpace: 'sRGB', alpha: 'luma' },
    { id: 'src-spray', name: 'spray', path: '../media/sg030/spray.####.exr', passes: { motion: { role: 'motion' as const } } },
  ];
  write('sg030', { ...shot, sources });
}
