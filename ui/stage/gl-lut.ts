import type { Cube } from '@/core/colour';

/** Stops of light that the table of the way into a LUT covers, and its entries. */
export const LUT_RANGE = { low: -14, high: 8 } as const;

/** A colour table to look through: light goes into its own space first. */
export interface ViewLut {
  key: string;
  /** Light's primaries to those of the space that the table takes, row by row. */
  matrix: readonly number[];
  /** Code values of that space by the logarithm of light; entry 0 is for 0. */
  encode: Float32Array;
  cube: Cube;
}

/** Looks a colour up in a table: into its space, through its curves, through its cube in tetrahedra as core/colour/cube.ts does. */
export const LUT_SHADER = `
uniform sampler2D lutEncode; uniform sampler2D lutCurves; uniform highp sampler3D lutCube;
uniform mat3 lutMatrix; uniform int lutSizes[2]; uniform vec3 lutScale[2]; uniform vec3 lutShift[2];
float lutCode(float v) {
  int last = textureSize(lutEncode, 0).x - 1;
  float t = v <= 0.0 ? 0.0 : clamp((log2(v) - (${LUT_RANGE.low}.0)) / ${LUT_RANGE.high - LUT_RANGE.low}.0, 0.0, 1.0) * float(last);
  int i = min(int(t), last - 1);
  return mix(texelFetch(lutEncode, ivec2(i, 0), 0).r, texelFetch(lutEncode, ivec2(i + 1, 0), 0).r, t - float(i));
}
vec3 lutAt(ivec3 p) { return texelFetch(lutCube, p, 0).rgb; }
vec3 throughLut(vec3 light) {
  vec3 m = lutMatrix * light;
  vec3 c = vec3(lutCode(m.r), lutCode(m.g), lutCode(m.b));
  if (lutSizes[0] > 0) {
    vec3 t = clamp(c * lutScale[0] + lutShift[0], 0.0, float(lutSizes[0] - 1));
    ivec3 i = min(ivec3(t), lutSizes[0] - 2);
    vec3 f = t - vec3(i);
    for (int k = 0; k < 3; k++) c[k] = mix(texelFetch(lutCurves, ivec2(i[k], 0), 0)[k], texelFetch(lutCurves, ivec2(i[k] + 1, 0), 0)[k], f[k]);
  }
  if (lutSizes[1] > 0) {
    vec3 t = clamp(c * lutScale[1] + lutShift[1], 0.0, float(lutSizes[1] - 1));
    ivec3 i = min(ivec3(t), lutSizes[1] - 2);
    vec3 f = t - vec3(i);
    float high = max(f.r, max(f.g, f.b));
    float low = min(f.r, min(f.g, f.b));
    float mid = f.r + f.g + f.b - high - low;
    ivec3 first = f.r >= f.g && f.r >= f.b ? ivec3(1, 0, 0) : f.g >= f.b ? ivec3(0, 1, 0) : ivec3(0, 0, 1);
    ivec3 last = f.b <= f.r && f.b <= f.g ? ivec3(0, 0, 1) : f.g <= f.r ? ivec3(0, 1, 0) : ivec3(1, 0, 0);
    c = lutAt(i) * (1.0 - high) + lutAt(i + first) * (high - mid) + lutAt(i + ivec3(1) - last) * (mid - low) + lutAt(i + ivec3(1)) * low;
  }
  return clamp(c, 0.0, 1.0);
}`;

/** Keeps a table's textures; made again when another table is looked through. */
export class GlLut {
  private shown = '';
  private readonly textures: WebGLTexture[];

  constructor(private readonly gl: WebGL2RenderingContext) {
    this.textures = [0, 1, 2].map(() => gl.createTexture());
    // Samplers must be whole even while nothing is looked up.
    this.fill(1, gl.TEXTURE_2D, [1, 1, 1], new Float32Array(4));
    this.fill(2, gl.TEXTURE_2D, [1, 1, 1], new Float32Array(4));
    this.fill(3, gl.TEXTURE_3D, [1, 1, 1], new Float32Array(4));
  }

  private fill(unit: number, target: number, [w, h, d]: readonly [number, number, number], data: Float32Array): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(target, this.textures[unit - 1]!);
    gl.texParameteri(target, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(target, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    if (target === gl.TEXTURE_3D) gl.texImage3D(target, 0, gl.RGBA32F, w, h, d, 0, gl.RGBA, gl.FLOAT, data);
    else gl.texImage2D(target, 0, gl.RGBA32F, w, h, 0, gl.RGBA, gl.FLOAT, data);
    gl.activeTexture(gl.TEXTURE0);
  }

  /** Sets the shader's uniforms; without a table only its samplers. */
  use(lut: ViewLut | null, at: (name: string) => WebGLUniformLocation | null): void {
    const { gl } = this;
    ['lutEncode', 'lutCurves', 'lutCube'].forEach((name, i) => gl.uniform1i(at(name), i + 1));
    if (!lut) return;
    const { curves, cube } = lut.cube;
    if (this.shown !== lut.key) {
      this.shown = lut.key;
      this.fill(1, gl.TEXTURE_2D, [lut.encode.length, 1, 1], four(lut.encode, 1));
      if (curves) this.fill(2, gl.TEXTURE_2D, [curves.size, 1, 1], four(curves.data, 3));
      if (cube) this.fill(3, gl.TEXTURE_3D, [cube.size, cube.size, cube.size], four(cube.data, 3));
    }
    gl.uniformMatrix3fv(at('lutMatrix'), true, lut.matrix);
    gl.uniform1iv(at('lutSizes[0]'), [curves?.size ?? 0, cube?.size ?? 0]);
    const tables = [curves, cube];
    const scale = tables.flatMap((t) => [0, 1, 2].map((c) => (t ? (t.size - 1) / (t.high[c]! - t.low[c]!) : 1)));
    gl.uniform3fv(at('lutScale[0]'), scale);
    gl.uniform3fv(
      at('lutShift[0]'),
      tables.flatMap((t, k) => [0, 1, 2].map((c) => (t ? -t.low[c]! * scale[3 * k + c]! : 0))),
    );
  }
}

/** Entries of one or three numbers as texels of four. */
function four(data: Float32Array, per: number): Float32Array {
  const out = new Float32Array((4 * data.length) / per);
  for (let i = 0; i < data.length / per; i++) for (let c = 0; c < per; c++) out[4 * i + c] = data[per * i + c]!;
  return out;
}
