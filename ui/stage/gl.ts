import type { Rendered } from '@/engine/host';
import { GlLut, LUT_SHADER } from './gl-lut';
import type { Drawing, Look } from './look';
import { BACKINGS, CHANNELS, SURROUND, TRANSFORMS } from './look';

const MODES = ['wipe', 'side', 'difference'] as const;

const VERTEX = `#version 300 es
in vec2 at; void main() { gl_Position = vec4(at, 0.0, 1.0); }`;

/** Looking: nothing here touches the picture. Channel choice, exposure, backing, view transform, and dither against banding. */
const FRAGMENT = `#version 300 es
precision highp float;
uniform sampler2D picture; uniform vec2 canvas; uniform vec2 size; uniform vec2 corner; uniform vec4 place; uniform vec4 frame; uniform vec4 bounds; uniform sampler2D other; uniform vec4 otherPlace; uniform vec2 otherCorner; uniform int compare; uniform vec4 wipe; uniform float differenceGain;
uniform float gain; uniform float gamma; uniform int transform; uniform int channel; uniform int backing; uniform vec3 backingColour; uniform sampler2D under; uniform vec4 underPlace; uniform vec2 underCorner; uniform vec3 surround;
out vec4 colour;
${LUT_SHADER}
vec3 srgb(vec3 c) { return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c)); }
const mat3 toP3 = mat3(0.8224619, 0.0331942, 0.0170826, 0.1775381, 0.9668058, 0.0723974, 0.0, 0.0, 0.9105199);
vec3 display(vec3 c) {
  if (transform == 5) { c = throughLut(c); return gamma == 1.0 ? c : pow(c, vec3(1.0 / gamma)); }
  if (transform == 4) c = toP3 * c;
  c = max(c, 0.0);
  if (transform == 2) c = mix(c, 0.6 + 0.4 * (1.0 - exp((0.6 - c) / 0.4)), step(0.6, c));
  c = min(c, 1.0);
  c = transform == 1 ? pow(c, vec3(1.0 / 2.4)) : transform == 3 ? c : srgb(c);
  return gamma == 1.0 ? c : pow(c, vec3(1.0 / gamma));
}
float noise(vec2 p) { return fract(sin(dot(p, vec2(12.9898, 78.233))) * 43758.5453); }
void line(vec2 at, vec4 box, float strength, inout vec3 shown) {
  vec2 low = place.xy + box.xy * place.zw; vec2 high = place.xy + box.zw * place.zw;
  vec2 d = min(abs(at - low), abs(at - high));
  bool span = all(greaterThan(at, low - 1.0)) && all(lessThan(at, high + 1.0));
  if (span && min(d.x, d.y) < 0.5) shown = mix(shown, vec3(0.42), strength);
}
bool within(vec2 uv) { return all(greaterThanEqual(uv, vec2(0.0))) && all(lessThan(uv, vec2(1.0))); }
vec3 behind(vec2 p) {
  // Where two stand side by side each lies on the whole of it.
  vec2 q = compare == 2 && p.x >= canvas.x * 0.5 ? p - vec2(canvas.x * 0.5, 0.0) : p;
  if (backing == 4) {
    float third = (q.x - place.x) / (frame.z * place.z) * 3.0;
    return third < 1.0 ? vec3(0.0) : third < 2.0 ? vec3(1.0) : vec3(0.18);
  }
  if (backing == 5) return backingColour * gain;
  if (backing == 6) {
    vec2 uv = ((q - place.xy) / underPlace.xy - underCorner) / underPlace.zw;
    return within(uv) ? texture(under, uv).rgb * gain : vec3(0.0);
  }
  if (backing == 1) return vec3(0.0);
  if (backing == 2) return vec3(1.0);
  if (backing == 3) return vec3(0.18);
  float c = mod(floor(p.x / 12.0) + floor(p.y / 12.0), 2.0);
  return vec3(mix(0.075, 0.13, c));
}
vec3 seen(vec4 v, vec2 screen) {
  if (any(isnan(v)) || any(isinf(v))) return vec3(1.0, 0.0, 1.0) * step(0.5, fract((screen.x - screen.y) / 6.0));
  vec4 c = v * gain;
  if (channel == 0) return display(c.rgb + (1.0 - clamp(v.a, 0.0, 1.0)) * behind(screen));
  if (channel == 1) return display(c.rrr);
  if (channel == 2) return display(c.ggg);
  if (channel == 3) return display(c.bbb);
  if (channel == 4) return vec3(clamp(v.a * gain, 0.0, 1.0));
  if (channel == 5) return display(vec3(dot(c.rgb, vec3(0.2126, 0.7152, 0.0722))));
  if (channel == 7) return mix(display(c.rgb), vec3(0.81, 0.41, 0.23), 0.6 * (1.0 - clamp(v.a, 0.0, 1.0)));
  float stripe = step(0.5, fract((screen.x + screen.y) / 9.0));
  if (v.a < 0.0) return mix(vec3(0.93, 0.42, 0.37), vec3(0.3, 0.05, 0.05), stripe);
  if (v.a == 0.0) return vec3(0.03);
  if (v.a > 1.0) return mix(vec3(0.85, 0.66, 0.28), vec3(0.35, 0.22, 0.0), stripe);
  if (v.a == 1.0) return vec3(0.91, 0.89, 0.85);
  return mix(vec3(0.12, 0.24, 0.23), vec3(0.55, 0.78, 0.74), v.a);
}
void main() {
  vec2 screen = vec2(gl_FragCoord.x, canvas.y - gl_FragCoord.y);
  vec2 half_ = vec2(canvas.x * 0.5, 0.0);
  bool right = compare == 2 && screen.x >= half_.x;
  vec2 at = right ? screen - half_ : screen;
  vec2 uv = ((at - place.xy) / place.zw - corner) / size;
  vec2 uvOther = ((at - place.xy) / otherPlace.xy - otherCorner) / otherPlace.zw;
  bool over = compare == 1 && dot(screen - wipe.xy, wipe.zw) > 0.0;
  vec3 shown = surround;
  if (compare == 3 && within(uv)) {
    vec4 a = texture(picture, uv);
    vec4 b = within(uvOther) ? texture(other, uvOther) : vec4(0.0);
    vec4 d = abs(a - b) * differenceGain;
    shown = channel == 4 ? vec3(clamp(d.a, 0.0, 1.0)) : display(d.rgb * gain);
  } else if (right || over) {
    if (within(uvOther)) shown = seen(texture(other, uvOther), screen);
  } else if (within(uv)) shown = seen(texture(picture, uv), screen);
  shown += (noise(screen) - 0.5) / 255.0;
  if (place.z >= 12.0 && within(uv)) {
    // Single pixels are told apart.
    vec2 cell = fract((at - place.xy) / place.zw) * place.zw;
    if (min(cell.x, cell.y) < 1.0) shown = mix(shown, vec3(0.5), 0.25);
  }
  if (compare == 1 && abs(dot(screen - wipe.xy, wipe.zw)) < 0.75) shown = vec3(0.91, 0.89, 0.85);
  if (compare == 2 && abs(screen.x - half_.x) < 0.75) shown = vec3(0.42);
  line(at, frame, 0.8, shown);
  line(at, bounds, 0.45, shown);
  colour = vec4(shown, 1.0);
}`;

/** Texture units of the picture, what it is compared with, and what lies behind; 1 to 3 are the colour table's. */
const UNITS = [0, 4, 5] as const;

/** Draws a float picture with WebGL2; made once for a canvas. Throws where the browser has no WebGL2. */
export class GlDrawing implements Drawing {
  private readonly gl: WebGL2RenderingContext;
  private readonly program: WebGLProgram;
  private readonly textures: [WebGLTexture, WebGLTexture, WebGLTexture];
  private readonly shown: [Rendered | null, Rendered | null, Rendered | null] = [null, null, null];
  private readonly lut: GlLut;

  constructor(readonly canvas: OffscreenCanvas) {
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false, preserveDrawingBuffer: true });
    if (!gl) throw new Error('This browser offers no WebGL2, which the stage draws with.');
    this.gl = gl;
    this.program = gl.createProgram();
    for (const [type, text] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, FRAGMENT],
    ] as const) {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? 'shader');
      gl.attachShader(this.program, shader);
    }
    gl.linkProgram(this.program);
    const corners = gl.createBuffer();
    gl.bindBuffer(gl.ARRAY_BUFFER, corners);
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
    const at = gl.getAttribLocation(this.program, 'at');
    gl.enableVertexAttribArray(at);
    gl.vertexAttribPointer(at, 2, gl.FLOAT, false, 0, 0);
    this.lut = new GlLut(gl);
    this.textures = [this.pictureTexture(), this.pictureTexture(), this.pictureTexture()];
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
    const { gl, program, canvas } = this;
    const surround = SURROUND[look.surround];
    gl.viewport(0, 0, canvas.width, canvas.height);
    if (!rendered) {
      gl.clearColor(...surround, 1);
      gl.clear(gl.COLOR_BUFFER_BIT);
      return;
    }
    const [w, h] = this.load(0, rendered);
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
    gl.uniform1i(at('transform'), look.lut ? 5 : Math.max(0, TRANSFORMS.indexOf(look.transform)));
    this.lut.use(look.lut, at);
    // The page is sRGB: only this canvas says that its values are wider.
    if ('drawingBufferColorSpace' in gl) gl.drawingBufferColorSpace = look.transform === 'P3' ? 'display-p3' : 'srgb';
    gl.uniform1i(at('channel'), CHANNELS.indexOf(look.channel));
    gl.uniform3f(at('surround'), ...surround);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** What lies behind. A lane whose picture is not there yet is a checker. */
  private useBacking({ backing, backingColour, behind, zoom }: Look, at: (name: string) => WebGLUniformLocation | null): void {
    const { gl } = this;
    gl.uniform1i(at('under'), UNITS[2]);
    gl.uniform3f(at('backingColour'), ...backingColour);
    gl.uniform1i(at('backing'), behind ? BACKINGS.length : Math.max(0, BACKINGS.indexOf(backing)));
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
    gl.uniform1i(at('compare'), other ? 1 + MODES.indexOf(other.mode) : 0);
    if (!other) return;
    const [w, h] = this.load(1, other.rendered);
    const pixel = zoom / other.scale;
    gl.uniform4f(at('otherPlace'), pixel, pixel, w, h);
    gl.uniform2f(at('otherCorner'), other.rendered.region.x0, other.rendered.region.y0);
    gl.uniform4f(at('wipe'), ...other.wipe);
    gl.uniform1f(at('differenceGain'), other.gain);
  }
}
