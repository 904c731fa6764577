import type { Rendered } from '@/engine';
import { GlLut } from './gl-lut';
import type { Variant } from './gl-shader';
import { fragment, VERTEX } from './gl-shader';
import type { Drawing, Look } from './look';
import { BACKINGS, CHANNELS, SURROUND, TRANSFORMS } from './look';

const MODES = ['wipe', 'side', 'difference'] as const;

/** CSS pixels a pixel of the picture from which single pixels are told apart. */
const CELL = 12;

/** Texture units of the picture, what it is compared with, and what lies behind; 1 to 3 are the colour table's. */
const UNITS = [0, 4, 5] as const;
/** The one vertex attribute, in every program. */
const AT = 0;
/** The view transform that goes through a colour table. */
const LUT = 5;

/** Draws a float picture with WebGL2; made once for a canvas. Throws where the browser has no WebGL2. */
export class GlDrawing implements Drawing {
  private readonly gl: WebGL2RenderingContext;
  private readonly programs = new Map<string, WebGLProgram>();
  private readonly textures: [WebGLTexture, WebGLTexture, WebGLTexture];
  private readonly shown: [Rendered | null, Rendered | null, Rendered | null] = [null, null, null];
  private readonly lut: GlLut;

  constructor(readonly canvas: OffscreenCanvas) {
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false, preserveDrawingBuffer: true });
    if (!gl) throw new Error('This browser offers no WebGL2, which the stage draws with.');
    this.gl = gl;
    const corners = gl.createBuffer();
    gl.bindBuffer(gl.ARRAY_BUFFER, corners);
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
    gl.enableVertexAttribArray(AT);
    gl.vertexAttribPointer(AT, 2, gl.FLOAT, false, 0, 0);
    this.lut = new GlLut(gl);
    this.textures = [this.pictureTexture(), this.pictureTexture(), this.pictureTexture()];
  }

  /** The program of a look, compiled when it is first asked for. */
  private programOf(variant: Variant): WebGLProgram {
    const key = Object.values(variant).join(' ');
    const known = this.programs.get(key);
    if (known) return known;
    const { gl } = this;
    const program = gl.createProgram();
    for (const [type, text] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, fragment(variant)],
    ] as const) {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? 'shader');
      gl.attachShader(program, shader);
    }
    gl.bindAttribLocation(program, AT, 'at');
    gl.linkProgram(program);
    this.programs.set(key, program);
    return program;
  }

  private pictureTexture(): WebGLTexture {
    const { gl } = this;
    const texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, texture);
    for (const [name, value] of [
      [gl.TEXTURE_MIN_FILTER, gl.NEAREST],
      [gl.TEXTURE_MAG_FILTER, gl.NEAREST],
      [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
      [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
    ] as const) {
      gl.texParameteri(gl.TEXTURE_2D, name, value);
    }
    return texture;
  }

  /** Puts a picture into its texture, where it is not there already. Texture units 1 to 3 are the colour table's. */
  private load(slot: 0 | 1 | 2, rendered: Rendered): readonly [number, number] {
    const { gl } = this;
    const { region, pixels } = rendered;
    const [w, h] = [region.x1 - region.x0, region.y1 - region.y0];
    gl.activeTexture(gl.TEXTURE0 + UNITS[slot]);
    gl.bindTexture(gl.TEXTURE_2D, this.textures[slot]);
    if (this.shown[slot] !== rendered) {
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, w, h, 0, gl.RGBA, gl.FLOAT, pixels);
      this.shown[slot] = rendered;
    }
    gl.activeTexture(gl.TEXTURE0);
    return [w, h];
  }

  draw(rendered: Rendered | null, scale: number, look: Look): void {
    const { gl, canvas } = this;
    const surround = SURROUND[look.surround];
    gl.viewport(0, 0, canvas.width, canvas.height);
    if (!rendered) {
      gl.clearColor(...surround, 1);
      gl.clear(gl.COLOR_BUFFER_BIT);
      return;
    }
    const [w, h] = this.load(0, rendered);
    const program = this.programOf({
      TRANSFORM: look.lut ? LUT : Math.max(0, TRANSFORMS.indexOf(look.transform)),
      CHANNEL: CHANNELS.indexOf(look.channel),
      COMPARE: look.other ? 1 + MODES.indexOf(look.other.mode) : 0,
      BACKING: look.behind ? BACKINGS.length : Math.max(0, BACKINGS.indexOf(look.backing)),
      GAMMA: +(look.gamma !== 1),
      CELLS: +(look.zoom / scale >= CELL),
    });
    gl.useProgram(program);
    const at = (name: string): WebGLUniformLocation | null => gl.getUniformLocation(program, name);
    const pixel = look.zoom / scale;
    const { region } = rendered;
    gl.uniform2f(at('canvas'), canvas.width, canvas.height);
    gl.uniform2f(at('size'), w, h);
    gl.uniform4f(at('place'), look.x, look.y, pixel, pixel);
    gl.uniform2f(at('corner'), region.x0, region.y0);
    gl.uniform4f(at('frame'), 0, 0, rendered.format.width, rendered.format.height);
    const { x0, y0, x1, y1 } = rendered.bounds;
    gl.uniform4f(at('bounds'), x0, y0, x1, y1);
    this.useOther(look, at);
    this.useBacking(look, at);
    gl.uniform1f(at('gain'), 2 ** look.exposure);
    gl.uniform1f(at('gamma'), look.gamma);
    this.lut.use(look.lut, at);
    // The page is sRGB: only this canvas says that its values are wider.
    if ('drawingBufferColorSpace' in gl) gl.drawingBufferColorSpace = look.transform === 'P3' ? 'display-p3' : 'srgb';
    gl.uniform3f(at('surround'), ...surround);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** What lies behind. A lane whose picture is not there yet is a checker. */
  private useBacking({ backingColour, behind, zoom }: Look, at: (name: string) => WebGLUniformLocation | null): void {
    const { gl } = this;
    gl.uniform1i(at('under'), UNITS[2]);
    gl.uniform3f(at('backingColour'), ...backingColour);
    if (!behind) return;
    const [w, h] = this.load(2, behind.rendered);
    const pixel = zoom / behind.scale;
    gl.uniform4f(at('underPlace'), pixel, pixel, w, h);
    gl.uniform2f(at('underCorner'), behind.rendered.region.x0, behind.rendered.region.y0);
  }

  /** What is compared with. Its sampler is set even where there is nothing: two kinds must not share a unit. */
  private useOther({ other, zoom }: Look, at: (name: string) => WebGLUniformLocation | null): void {
    const { gl } = this;
    gl.uniform1i(at('other'), 4);
    if (!other) return;
    const [w, h] = this.load(1, other.rendered);
    const pixel = zoom / other.scale;
    gl.uniform4f(at('otherPlace'), pixel, pixel, w, h);
    gl.uniform2f(at('otherCorner'), other.rendered.region.x0, other.rendered.region.y0);
    gl.uniform4f(at('wipe'), ...other.wipe);
    gl.uniform1f(at('differenceGain'), other.gain);
  }
}
