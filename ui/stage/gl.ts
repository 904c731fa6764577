import type { Rendered } from '@/engine/host';
import { GlLut, LUT_SHADER } from './gl-lut';
import type { Drawing, Look } from './look';
import { BACKINGS, CHANNELS, SURROUND, TRANSFORMS } from './look';

const VERTEX = `#version 300 es
in vec2 at; void main() { gl_Position = vec4(at, 0.0, 1.0); }`;

/** Looking: nothing here touches the picture. Channel choice, exposure, backing, view transform, and dither against banding. */
const FRAGMENT = `#version 300 es
precision highp float;
uniform sampler2D picture; uniform vec2 canvas; uniform vec2 size; uniform vec4 place; uniform vec4 frame;
uniform float gain; uniform float gamma; uniform int transform; uniform int channel; uniform int backing; uniform vec3 surround;
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
vec3 behind(vec2 p) {
  if (backing == 1) return vec3(0.0);
  if (backing == 2) return vec3(1.0);
  if (backing == 3) return vec3(0.18);
  float c = mod(floor(p.x / 12.0) + floor(p.y / 12.0), 2.0);
  return vec3(mix(0.075, 0.13, c));
}
void main() {
  vec2 screen = vec2(gl_FragCoord.x, canvas.y - gl_FragCoord.y);
  vec2 p = (screen - place.xy) / place.zw;
  vec2 uv = p / size;
  vec3 shown = surround;
  bool inside = all(greaterThanEqual(uv, vec2(0.0))) && all(lessThan(uv, vec2(1.0)));
  if (inside) {
    vec4 v = texture(picture, uv);
    bool wrong = any(isnan(v)) || any(isinf(v));
    vec4 c = v * gain;
    if (channel == 0) shown = display(c.rgb + (1.0 - clamp(v.a, 0.0, 1.0)) * behind(screen));
    else if (channel == 1) shown = display(c.rrr);
    else if (channel == 2) shown = display(c.ggg);
    else if (channel == 3) shown = display(c.bbb);
    else if (channel == 4) shown = vec3(clamp(v.a * gain, 0.0, 1.0));
    else if (channel == 5) shown = display(vec3(dot(c.rgb, vec3(0.2126, 0.7152, 0.0722))));
    else {
      float stripe = step(0.5, fract((screen.x + screen.y) / 9.0));
      if (v.a < 0.0) shown = mix(vec3(0.93, 0.42, 0.37), vec3(0.3, 0.05, 0.05), stripe);
      else if (v.a == 0.0) shown = vec3(0.03);
      else if (v.a > 1.0) shown = mix(vec3(0.85, 0.66, 0.28), vec3(0.35, 0.22, 0.0), stripe);
      else if (v.a == 1.0) shown = vec3(0.91, 0.89, 0.85);
      else shown = mix(vec3(0.12, 0.24, 0.23), vec3(0.55, 0.78, 0.74), v.a);
    }
    if (wrong) shown = vec3(1.0, 0.0, 1.0) * step(0.5, fract((screen.x - screen.y) / 6.0));
    shown += (noise(screen) - 0.5) / 255.0;
  }
  vec2 low = place.xy + frame.xy * place.zw; vec2 high = place.xy + frame.zw * place.zw;
  vec2 d = min(abs(screen - low), abs(screen - high));
  bool span = all(greaterThan(screen, low - 1.0)) && all(lessThan(screen, high + 1.0));
  if (span && min(d.x, d.y) < 0.5) shown = mix(shown, vec3(0.42), 0.8);
  colour = vec4(shown, 1.0);
}`;

/** Draws a float picture with WebGL2; made once for a canvas. Throws where the browser has no WebGL2. */
export class GlDrawing implements Drawing {
  private readonly gl: WebGL2RenderingContext;
  private readonly program: WebGLProgram;
  private readonly texture: WebGLTexture;
  private shown: Rendered | null = null;
  private readonly lut: GlLut;

  constructor(readonly canvas: HTMLCanvasElement) {
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
    this.texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    for (const [name, value] of [
      [gl.TEXTURE_MIN_FILTER, gl.NEAREST],
      [gl.TEXTURE_MAG_FILTER, gl.NEAREST],
      [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
      [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
    ] as const) {
      gl.texParameteri(gl.TEXTURE_2D, name, value);
    }
  }

  draw(rendered: Rendered | null, scale: number, look: Look, surround: readonly [number, number, number] = SURROUND): void {
    const { gl, program, canvas } = this;
    gl.viewport(0, 0, canvas.width, canvas.height);
    if (!rendered) {
      gl.clearColor(...surround, 1);
      gl.clear(gl.COLOR_BUFFER_BIT);
      return;
    }
    const w = rendered.region.x1 - rendered.region.x0;
    const h = rendered.region.y1 - rendered.region.y0;
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    if (this.shown !== rendered) {
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, w, h, 0, gl.RGBA, gl.FLOAT, rendered.pixels);
      this.shown = rendered;
    }
    gl.useProgram(program);
    const at = (name: string): WebGLUniformLocation | null => gl.getUniformLocation(program, name);
    const pixel = look.zoom / scale;
    gl.uniform2f(at('canvas'), canvas.width, canvas.height);
    gl.uniform2f(at('size'), w, h);
    gl.uniform4f(at('place'), look.x, look.y, pixel, pixel);
    gl.uniform4f(at('frame'), 0, 0, rendered.format.width, rendered.format.height);
    gl.uniform1f(at('gain'), 2 ** look.exposure);
    gl.uniform1f(at('gamma'), look.gamma);
    gl.uniform1i(at('transform'), look.lut ? 5 : Math.max(0, TRANSFORMS.indexOf(look.transform)));
    this.lut.use(look.lut, at);
    // The page is sRGB: only this canvas says that its values are wider.
    if ('drawingBufferColorSpace' in gl) gl.drawingBufferColorSpace = look.transform === 'P3' ? 'display-p3' : 'srgb';
    gl.uniform1i(at('channel'), CHANNELS.indexOf(look.channel));
    gl.uniform1i(at('backing'), BACKINGS.indexOf(look.backing));
    gl.uniform3f(at('surround'), ...surround);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }
}
