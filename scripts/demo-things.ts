import type { Param, Step } from '@/core/document';
import type { Vec3 } from '@/core/geometry';
import { along3, apply3, scale3, transpose3 } from '@/core/geometry';
import type { Placing } from '@/core/space';
import { upright } from '@/core/space';
import { BOLLARDS, CRATES } from '@/demo/sg050';
import type { Written } from './demo-parts';
import { lane, step } from './demo-parts';

type Values = Record<string, Param>;

/** Things of a scene step as its parameters. */
class Things {
  readonly list: { id: string; name: string }[] = [];
  readonly params: Values = {};
  add(id: string, name: string, values: Values): this {
    this.list.push({ id, name });
    for (const [k, v] of Object.entries(values)) this.params[`${id}.${k}`] = v;
    return this;
  }
  get all(): Values {
    return { seen: 'reading', camera: 'camera', things: this.list as unknown as Param, ...this.params };
  }
}

const rounded = (v: readonly number[]): number[] => v.map((x) => Number(x.toFixed(3)));

/** The slipway as it was surveyed, in the world of its solved camera. */
class Survey {
  constructor(private readonly truth: Placing) {}
  /** A place of the slipway, y down, as things are placed. */
  at(p: Vec3): number[] {
    const { turn, scale, shift } = this.truth;
    return rounded(upright(scale3(apply3(transpose3(turn), along3(p, shift, -1)), 1 / scale)));
  }
  length(v: number): number {
    return Number((v / this.truth.scale).toFixed(3));
  }
  /** How a thing that is turned by some radians about its upright there is turned here, degrees. */
  yaw(radians: number): number {
    const along: Vec3 = [Math.cos(radians), 0, -Math.sin(radians)];
    const [x, , z] = upright(apply3(transpose3(this.truth.turn), along));
    return Number(((Math.atan2(-z, x) * 180) / Math.PI).toFixed(2));
  }
}

/** Stand-ins for what is on the slipway: they hide what is behind them. */
function standIns(things: Things, s: Survey): void {
  CRATES.forEach((c, i) => {
    things.add(`crate${i + 1}`, `Crate ${i + 1}`, {
      what: 'box',
      at: s.at(c.at),
      turn: [0, s.yaw(c.yaw), 0],
      sides: c.half.map((h) => s.length(2 * h)),
      holds: true,
      casts: false,
    });
  });
  BOLLARDS.forEach((b, i) => {
    things.add(`bollard${i + 1}`, `Bollard ${i + 1}`, {
      what: 'box',
      at: s.at([b.x, -b.h / 2, b.z]),
      sides: [1.75 * b.r, b.h, 1.75 * b.r].map((v) => s.length(v)),
      holds: true,
      casts: false,
    });
    things.add(`head${i + 1}`, `Bollard ${i + 1} head`, {
      what: 'ball',
      inside: false,
      at: s.at([b.x, -b.h, b.z]),
      size: s.length(2.5 * b.r),
      holds: true,
      casts: false,
    });
  });
}

const MARKER: Vec3 = [0.02, 0, 3.75];
/** The face of a crate that carries the sign. */
const SIGNED = CRATES[0]!;

/**
 * Lanes of things in the slipway: the brass marker with its shadow and mirror and the sign on a crate, and fog on three cards between the crates. And the steps that lay
 * them over the straightened plate.
 */
export function slipwayThings(truth: Placing, signPin: Values): { lanes: Written['lanes']; steps: Step[]; sources: Written['sources'] } {
  const s = new Survey(truth);
  const marker = new Things();
  marker
    .add('marker', 'Brass marker', { what: 'model', model: 'src-marker', at: s.at(MARKER), turn: [0, 35, 0], size: s.length(1) })
    .add('sun', 'Sun', {
      what: 'light',
      at: s.at([MARKER[0] - 5.5, -7.2, MARKER[2] - 4.2]),
      aim: s.at(MARKER),
      strength: 1.5,
      tint: [1.08, 1, 0.88],
      blurs: 0.6,
    })
    .add('sky', 'Surroundings', { what: 'light', light: 'around', strength: 0.75 })
    .add('ground', 'Wet ground', { what: 'catcher', at: s.at(MARKER), wide: s.length(4), dark: 0.85, mirrors: 0.6, blur: 2.5 });
  const c = SIGNED;
  marker.add('sign', 'Crate with the sign', {
    what: 'box',
    at: s.at(c.at),
    turn: [0, s.yaw(c.yaw), 0],
    sides: c.half.map((h) => s.length(2 * h + 0.004)),
    shows: 'thrown',
    from: 40,
    moves: false,
    casts: false,
  });
  standIns(marker, s);
  const fog = new Things();
  [3.58, 4.9, 7.85].forEach((z, i) => {
    fog.add(`fog${i + 1}`, ['Near bank', 'Middle bank', 'Far bank'][i]!, {
      what: 'card',
      at: s.at([[-0.9, 1.1, 0.2][i]!, [-0.95, -1.2, -1.7][i]!, z]),
      size: s.length([4.4, 5.6, 8.6][i]!),
      facing: true,
      casts: false,
      offset: [0, 11, 23][i]!,
      opacity: [0.55, 1, 1][i]!,
      tint: [0.94, 0.98, 1.05],
    });
  });
  fog.add('floor', 'Ground', { what: 'card', at: s.at([0, 0, 6]), turn: [-90, 0, 0], size: s.length(30), holds: true, casts: false });
  fog.add('marker', 'Brass marker', {
    what: 'model',
    model: 'src-marker',
    at: s.at(MARKER),
    turn: [0, 35, 0],
    size: s.length(1),
    holds: true,
  });
  standIns(fog, s);
  const straight = { lane: 'slipway', after: 'straighten' };
  return {
    sources: [
      { id: 'src-marker', name: 'brass marker', path: '../media/elements/marker.glb', colourSpace: 'sRGB' },
      { id: 'src-fog', name: 'fog bank', path: '../media/elements/fog.####.png', colourSpace: 'sRGB', alpha: 'luma' } as never,
      { id: 'src-sign', name: 'sign', path: '../media/sg050/sign.png', colourSpace: 'sRGB', alpha: 'straight' } as never,
      { id: 'src-sky', name: 'surroundings', path: '../media/sg010/harbour.png', colourSpace: 'sRGB' },
    ],
    lanes: [
      lane('sign', 'sign', { source: 'src-sign' }, [
        step('sign-size', 'conform', 'Size', { params: { fit: 'stretch' } }),
        step('sign-pin', 'cornerPin', 'On the crate', { params: signPin }),
        step('sign-light', 'grade', 'Match the light', { params: { exposure: -1.15, slope: [1.02, 1, 0.97] } }),
        step('sign-soft', 'blur', 'Soften', { params: { size: 1.2 } }),
      ]),
      lane('sky', 'surroundings', { source: 'src-sky' }, []),
      lane('fog-bank', 'fog bank', { source: 'src-fog' }, [
        step('fog-slow', 'retime', 'Slower', { params: { speed: 0.11, between: 'blend' } }),
        step('fog-light', 'grade', 'Match the light', { params: { exposure: -0.7 } }),
        step('fog-soft', 'crop', 'Soft sides', { params: { top: -400, bottom: -400, softness: 110 } }),
      ]),
      lane('marker', 'marker', { empty: true }, [
        step('marker-scene', 'scene', 'Marker and sign', {
          params: { ...marker.all, shutter: 180, shutterSamples: 4, overscan: 110 },
          feeds: { 'sky.picture': { lane: 'sky' }, 'sign.picture': { lane: 'sign' } },
        }),
        step('marker-wrap', 'lightWrap', 'Light wrap', { feeds: { behind: straight } }),
      ]),
      lane('fog', 'fog', { empty: true }, [
        step('fog-scene', 'scene', 'Fog in depth', {
          params: { ...fog.all, soft: s.length(0.5), overscan: 110 },
          feeds: Object.fromEntries([1, 2, 3].map((i) => [`fog${i}.picture`, { lane: 'fog-bank' }])),
        }),
      ]),
    ],
    steps: [
      step('marker-over', 'join', 'marker over', { feeds: { front: { lane: 'marker' } } }),
      step('fog-over', 'join', 'fog over', { feeds: { front: { lane: 'fog' } } }),
    ],
  };
}
