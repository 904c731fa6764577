import { strFromU8 } from 'fflate';
import { MediaError } from '../../errors';
import type { Mat3 } from '../../geometry/rotation';
import { apply3, multiply3, turnOf, turnOfQuaternion } from '../../geometry/rotation';
import type { Vec3 } from '../../geometry/vec3';
import { along3, unit3 } from '../../geometry/vec3';
import type { Affine3 } from '../../render/affine';
import type { CameraScene, SceneThing } from './camera-scene';
import { linearColour, quaternionsOf } from './camera-scene';
import type { ReadCamera } from './gltf';
import { FILM_WIDTH } from './gltf';

const n = (v: number): string => String(Number(v.toPrecision(12)));
const tuple = (v: readonly number[]): string => `(${v.map(n).join(', ')})`;
/** A name that a prim may have. */
const primName = (name: string): string => {
  const made = name.replace(/[^A-Za-z0-9_]/g, '_');
  return /^[A-Za-z_]/.test(made) ? made : `_${made}`;
};

/**
 * A solved camera as a USD text layer: y up, a unit a metre, a time code a frame. The film back's offset says where the lens's axis meets the picture, and a zoom is
 * written frame by frame.
 */
export function writeUsda(scene: CameraScene): string {
  const { width, height } = scene.format;
  const [first, last] = [scene.frames[0]!.frame, scene.frames[scene.frames.length - 1]!.frame];
  const mm = (px: number): number => (px * FILM_WIDTH) / width;
  const focals = scene.frames.map((f) => mm(f.focal));
  const zooms = focals.some((f) => Math.abs(f / focals[0]! - 1) > 1e-9);
  const names = new Set<string>();
  const unique = (name: string): string => {
    let made = primName(name);
    for (let i = 2; names.has(made); i++) made = `${primName(name)}_${i}`;
    names.add(made);
    return made;
  };
  const samples = (list: readonly string[]): string =>
    `{\n${list.map((v, i) => `            ${scene.frames[i]!.frame}: ${v},`).join('\n')}\n        }`;
  const turns = quaternionsOf(scene.frames);
  const pointsPrim = (name: string, list: readonly Vec3[], colour: string, more = ''): string =>
    list.length === 0
      ? ''
      : `
    def Points "${unique(name)}"
    {
        point3f[] points = [${list.map((p) => tuple(p)).join(', ')}]
        float[] widths = [${list.map(() => '0.02').join(', ')}]
        color3f[] primvars:displayColor = [${tuple(linearColour(colour))}]${more}
    }
`;
  return `#usda 1.0
(
    defaultPrim = "World"
    startTimeCode = ${first}
    endTimeCode = ${last}
    timeCodesPerSecond = ${n(scene.fps)}
    framesPerSecond = ${n(scene.fps)}
    metersPerUnit = 1
    upAxis = "Y"
)

def Xform "World"
{
    def Xform "${unique(scene.name)}"
    {
        double3 xformOp:translate.timeSamples = ${samples(scene.frames.map((f) => tuple(f.eye)))}
        quatd xformOp:orient.timeSamples = ${samples(turns.map(tuple))}
        uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:orient"]

        def Camera "${unique(`${scene.name}_camera`)}"
        {
            token projection = "perspective"
            float horizontalAperture = ${n(FILM_WIDTH)}
            float verticalAperture = ${n((FILM_WIDTH * height) / width)}
            float horizontalApertureOffset = ${n(mm(width / 2 - scene.centre[0]))}
            float verticalApertureOffset = ${n(mm(scene.centre[1] - height / 2))}
            float focalLength${zooms ? `.timeSamples = ${samples(focals.map(n))}` : ` = ${n(focals[0]!)}`}
            float2 clippingRange = (0.01, 100000)
        }
    }
${pointsPrim(
  'points',
  scene.points.map((p) => p.at),
  '#79b0a8',
  `
        custom string[] trackNames = [${scene.points.map((p) => JSON.stringify(p.name)).join(', ')}]`,
)}${scene.groups.map((g) => pointsPrim(g.name, g.points, g.colour)).join('')}${scene.cards
    .map(
      (c) => `
    def Mesh "${unique(c.name)}"
    {
        point3f[] points = [${c.corners.map((p) => tuple(p)).join(', ')}]
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 3, 2, 1]
        texCoord2f[] primvars:st = [(0, 1), (1, 1), (1, 0), (0, 0)] (
            interpolation = "vertex"
        )
        uniform bool doubleSided = 1
        uniform token subdivisionScheme = "none"
    }
`,
    )
    .join('')}${(scene.things ?? []).map((t) => thingPrim(t, unique)).join('')}}
`;
}

/** A matrix as USD has it: rows of vectors that are multiplied from the left. */
const rowsOf = (m: Affine3): string => `( ${[0, 1, 2, 3].map((c) => tuple([m[c]!, m[4 + c]!, m[8 + c]!, c === 3 ? 1 : 0])).join(', ')} )`;

const LAMPS: Readonly<Record<string, string>> = { sun: 'DistantLight', point: 'SphereLight', spot: 'SphereLight', around: 'DomeLight' };

function thingPrim(t: SceneThing, unique: (name: string) => string): string {
  const placed = (m: Affine3): string => `matrix4d xformOp:transform = ${rowsOf(m)}
        uniform token[] xformOpOrder = ["xformOp:transform"]`;
  if (t.light)
    return `
    def ${LAMPS[t.light.kind] ?? 'SphereLight'} "${unique(t.name)}"
    {
        ${placed(t.matrix)}
        color3f inputs:color = ${tuple(t.light.colour)}
        float inputs:intensity = ${n(t.light.strength)}
    }
`;
  const three = (list: Float32Array): string => {
    const made: string[] = [];
    for (let i = 0; i < list.length; i += 3) made.push(tuple([list[i]!, list[i + 1]!, list[i + 2]!]));
    return made.join(', ');
  };
  return `
    def Xform "${unique(t.name)}"
    {
        ${placed(t.matrix)}
        custom string kindOfThing = ${JSON.stringify(t.kind)}
${t.pieces
  .map(
    ({ mesh, matrix, colour }, i) => `
        def Mesh "${unique(`${t.name}_${i + 1}`)}"
        {
            matrix4d xformOp:transform = ${rowsOf(matrix)}
            uniform token[] xformOpOrder = ["xformOp:transform"]
            point3f[] points = [${three(mesh.positions)}]
            int[] faceVertexCounts = [${new Array(mesh.indices.length / 3).fill(3).join(', ')}]
            int[] faceVertexIndices = [${mesh.indices.join(', ')}]
            normal3f[] normals = [${three(mesh.normals)}] (
                interpolation = "vertex"
            )
            color3f[] primvars:displayColor = [${tuple(colour)}]
            uniform token subdivisionScheme = "none"
        }
`,
  )
  .join('')}    }
`;
}

type Value = number | string | readonly Value[] | ReadonlyMap<number, Value>;
interface Prim {
  readonly type: string;
  readonly name: string;
  readonly fields: Map<string, Value>;
  readonly children: Prim[];
}

/** Words, strings, numbers and signs of a text layer; what is said in brackets after names is skipped by the reader. */
function* words(text: string): Generator<string> {
  const at =
    /\s+|#[^\n]*|("""[\s\S]*?"""|'''[\s\S]*?'''|"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])*'|@[^@]*@|<[^>]*>|[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?|[A-Za-z_][\w:.]*(?:\[\])?|[{}()[\]=,:;])|./gy;
  for (let m = at.exec(text); m; m = at.exec(text)) if (m[1] !== undefined) yield m[1];
}

class LayerReader {
  private readonly list: string[];
  private i = 0;
  constructor(
    text: string,
    private readonly file: string,
  ) {
    this.list = [...words(text)];
  }

  private fail(what: string): never {
    throw new MediaError(this.file, `it is no USD text layer that can be read (${what})`);
  }

  private take(): string {
    return this.list[this.i++] ?? this.fail('it ends too early');
  }

  private skipBrackets(): void {
    if (this.list[this.i] !== '(') return;
    for (let depth = 0; ;) {
      const w = this.take();
      depth += w === '(' ? 1 : w === ')' ? -1 : 0;
      if (depth === 0) return;
    }
  }

  /** The layer's own fields and its prims. */
  layer(): { fields: Map<string, Value>; prims: Prim[] } {
    const fields = new Map<string, Value>();
    if (this.list[this.i] === '(') {
      this.i++;
      while (this.list[this.i] !== ')') {
        const key = this.take();
        if (this.list[this.i] !== '=') continue;
        this.i++;
        fields.set(key, this.value());
      }
      this.i++;
    }
    const prims: Prim[] = [];
    while (this.i < this.list.length) {
      if (['def', 'over', 'class'].includes(this.list[this.i]!)) prims.push(this.prim());
      else this.i++;
    }
    return { fields, prims };
  }

  private prim(): Prim {
    this.i++;
    const head = this.take();
    const named = head.startsWith('"');
    const made: Prim = { type: named ? '' : head, name: (named ? head : this.take()).slice(1, -1), fields: new Map(), children: [] };
    this.skipBrackets();
    if (this.take() !== '{') this.fail('a prim has no body');
    while (this.list[this.i] !== '}') {
      const w = this.list[this.i];
      if (w === undefined) this.fail('a prim does not end');
      if (w === 'def' || w === 'over' || w === 'class') made.children.push(this.prim());
      else this.field(made.fields);
    }
    this.i++;
    return made;
  }

  private field(to: Map<string, Value>): void {
    let name = '';
    // Qualifiers and the type stand before the name.
    while (!['=', '}', '(', undefined].includes(this.list[this.i]) && !['def', 'over', 'class'].includes(this.list[this.i]!)) {
      const w = this.take();
      if (w === '{') {
        this.i--;
        this.value();
        return;
      }
      name = w;
    }
    if (this.list[this.i] === '=') {
      this.i++;
      to.set(name, this.value());
    }
    this.skipBrackets();
  }

  private value(): Value {
    const w = this.take();
    if (w === '(' || w === '[') {
      const list: Value[] = [];
      const end = w === '(' ? ')' : ']';
      while (this.list[this.i] !== end) {
        if (this.list[this.i] === ',') this.i++;
        else list.push(this.value());
      }
      this.i++;
      return list;
    }
    if (w === '{') {
      const map = new Map<number, Value>();
      while (this.list[this.i] !== '}') {
        const key = this.take();
        if (this.list[this.i] === ':') {
          this.i++;
          map.set(Number(key), this.value());
        } else if (this.list[this.i] === '=') {
          this.i++;
          this.value();
        }
      }
      this.i++;
      return map;
    }
    if (w.startsWith('"') || w.startsWith("'")) return w.slice(1, -1);
    const number = Number(w);
    return Number.isFinite(number) && w !== '' ? number : w;
  }
}

const listOf = (v: Value | undefined): number[] =>
  Array.isArray(v) ? (v as Value[]).flatMap((x) => listOf(x)) : typeof v === 'number' ? [v] : [];

/** A field at a time: between samples by a line, held beyond them. */
function fieldAt(prim: Prim, name: string, time: number): number[] {
  const samples = prim.fields.get(`${name}.timeSamples`);
  if (!(samples instanceof Map)) return listOf(prim.fields.get(name));
  const list = [...(samples as Map<number, Value>)].map(([t, v]) => [t, listOf(v)] as const).sort((a, b) => a[0] - b[0]);
  const after = list.findIndex(([t]) => t >= time);
  if (after <= 0) return [...(list[after < 0 ? list.length - 1 : 0]?.[1] ?? [])];
  const [a, b] = [list[after - 1]!, list[after]!];
  const share = (time - a[0]) / (b[0] - a[0]);
  return a[1].map((v, i) => v + share * (b[1][i]! - v));
}

/** A prim's own place: a turn with its scale, and a shift. */
function placeAt(prim: Prim, time: number): { m: Mat3; t: Vec3 } {
  let place: { m: Mat3; t: Vec3 } = { m: [1, 0, 0, 0, 1, 0, 0, 0, 1], t: [0, 0, 0] };
  const order = prim.fields.get('xformOpOrder');
  for (const op of Array.isArray(order) ? (order as Value[]).map(String) : []) {
    const v = fieldAt(prim, op, time);
    const kind = op.split(':')[1] ?? '';
    let own: { m: Mat3; t: Vec3 } = { m: [1, 0, 0, 0, 1, 0, 0, 0, 1], t: [0, 0, 0] };
    const rad = v.map((d) => (d * Math.PI) / 180);
    if (kind === 'transform' && v.length === 16)
      own = { m: [v[0]!, v[4]!, v[8]!, v[1]!, v[5]!, v[9]!, v[2]!, v[6]!, v[10]!], t: [v[12]!, v[13]!, v[14]!] };
    else if (kind === 'translate') own = { ...own, t: [v[0]!, v[1]!, v[2]!] };
    else if (kind === 'scale') own = { ...own, m: [v[0]!, 0, 0, 0, v[1]!, 0, 0, 0, v[2]!] };
    else if (kind === 'orient') own = { ...own, m: turnOfQuaternion(v as [number, number, number, number]) };
    else if (/^rotate[XYZ]$/.test(kind))
      own = { ...own, m: turnOf(['X', 'Y', 'Z'].map((a) => (kind.endsWith(a) ? rad[0]! : 0)) as unknown as Vec3) };
    else if (/^rotate[XYZ]{3}$/.test(kind)) {
      // The first letter turns first.
      for (const axis of kind.slice(6)) {
        const i = 'XYZ'.indexOf(axis);
        own = { ...own, m: multiply3(turnOf([0, 1, 2].map((k) => (k === i ? rad[i]! : 0)) as unknown as Vec3), own.m) };
      }
    }
    place = joined(place, own);
  }
  return place;
}

const joined = (a: { m: Mat3; t: Vec3 }, b: { m: Mat3; t: Vec3 }): { m: Mat3; t: Vec3 } => ({
  m: multiply3(a.m, b.m),
  t: along3(apply3(a.m, b.t), a.t),
});

/** The first camera of a USD text layer, a frame a time code; its first one is frame `start`. Throws MediaError. */
export function readUsdaCamera(bytes: Uint8Array, file: string, start: number): ReadCamera {
  const text = strFromU8(bytes);
  if (text.startsWith('PXR-USDC') || text.startsWith('PK'))
    throw new MediaError(file, 'it is a binary or packed USD file: save it as text (.usda)');
  if (!text.startsWith('#usda')) throw new MediaError(file, 'it is no USD text layer: it does not begin with #usda');
  const { fields, prims } = new LayerReader(text, file).layer();
  const find = (list: readonly Prim[], chain: readonly Prim[]): readonly Prim[] | null => {
    for (const p of list) {
      const own = [...chain, p];
      if (p.type === 'Camera') return own;
      const deeper = find(p.children, own);
      if (deeper) return deeper;
    }
    return null;
  };
  const chain = find(prims, []);
  if (!chain) throw new MediaError(file, 'there is no camera in it');
  const camera = chain[chain.length - 1]!;
  const times = chain.flatMap((p) =>
    [...p.fields].flatMap(([k, v]) => (k.endsWith('.timeSamples') && v instanceof Map ? [...v.keys()] : [])),
  );
  const [from, to] = times.length ? [Math.min(...times), Math.max(...times)] : [0, 0];
  const zUp = fields.get('upAxis') === 'Z';
  const metres = fields.get('metersPerUnit');
  const unit = typeof metres === 'number' ? metres : 0.01;
  const aperture = (name: string, usual: number): number => fieldAt(camera, name, from)[0] ?? usual;
  const tall = aperture('verticalAperture', 15.2908);
  return {
    name: (chain[chain.length - 2] ?? camera).name,
    frames: Array.from({ length: Math.min(20_000, Math.floor(to - from) + 1) }, (_, i) => {
      const time = from + i;
      let place: { m: Mat3; t: Vec3 } = zUp
        ? { m: [1, 0, 0, 0, 0, 1, 0, -1, 0], t: [0, 0, 0] }
        : { m: [1, 0, 0, 0, 1, 0, 0, 0, 1], t: [0, 0, 0] };
      for (const p of chain) place = joined(place, placeAt(p, time));
      const column = (c: number): Vec3 => unit3([place.m[c]!, place.m[3 + c]!, place.m[6 + c]!]);
      const [x, y, z] = [column(0), column(1), column(2)];
      return {
        frame: start + i,
        eye: place.t.map((v) => v * unit) as unknown as Vec3,
        turn: [x[0], y[0], z[0], x[1], y[1], z[1], x[2], y[2], z[2]],
        focal: (fieldAt(camera, 'focalLength', time)[0] ?? 50) / tall,
      };
    }),
  };
}
