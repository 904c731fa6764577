import { LUT_SHADER } from './gl-lut';

export const VERTEX = `#version 300 es
in vec2 at; void main() { gl_Position = vec4(at, 0.0, 1.0); }`;

/** What of a look is compiled into its program: a processor that stands in for a graphics card runs every branch there is. */
export interface Variant {
  TRANSFORM: number;
  CHANNEL: number;
  COMPARE: number;
  BACKING: number;
  /** Whether the viewing gamma is another than 1, and whether single pixels are told apart. */
  GAMMA: number;
  CELLS: number;
}

/** Looking: nothing here touches the picture. Channel choice, exposure, backing, view transform, and dither against banding. */
export const fragment = (variant: Variant): string => `#version 300 es
${Object.entries(variant)
  .map(([name, value]) => `#define ${name} ${value}`)
  .join('\n')}
precision highp float;
uniform sampler2D picture; uniform vec2 canvas; uniform vec2 size; uniform vec2 corner; uniform vec4 place; uniform vec4 frame; uniform vec4 bounds;
uniform sampler2D other; uniform vec4 otherPlace; uniform vec2 otherCorner; uniform vec4 wipe; uniform float differenceGain;
uniform float gain; uniform float gamma; uniform vec3 backingColour; uniform sampler2D under; uniform vec4 underPlace; uniform vec2 underCorner; uniform vec3 surround;
out vec4 colour;
#if TRANSFORM == 5
${LUT_SHADER}
#endif
vec3 srgb(vec3 c) { return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c)); }
const mat3 toP3 = mat3(0.8224619, 0.0331942, 0.0170826, 0.1775381, 0.9668058, 0.0723974, 0.0, 0.0, 0.9105199);
vec3 display(vec3 c) {
#if TRANSFORM == 5
  c = throughLut(c);
#else
#if TRANSFORM == 4
  c = toP3 * c;
#endif
  c = max(c, 0.0);
#if TRANSFORM == 2
  c = mix(c, 0.6 + 0.4 * (1.0 - exp((0.6 - c) / 0.4)), step(0.6, c));
#endif
  c = min(c, 1.0);
#if TRANSFORM == 1
  c = pow(c, vec3(1.0 / 2.4));
#elif TRANSFORM != 3
  c = srgb(c);
#endif
#endif
#if GAMMA
  c = pow(c, vec3(1.0 / gamma));
#endif
  return c;
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
#if COMPARE == 2
  // Where two stand side by side each lies on the whole of it.
  vec2 q = p.x >= canvas.x * 0.5 ? p - vec2(canvas.x * 0.5, 0.0) : p;
#else
  vec2 q = p;
#endif
#if BACKING == 0
  float c = mod(floor(p.x / 12.0) + floor(p.y / 12.0), 2.0);
  return vec3(mix(0.075, 0.13, c));
#elif BACKING == 1
  return vec3(0.0);
#elif BACKING == 2
  return vec3(1.0);
#elif BACKING == 3
  return vec3(0.18);
#elif BACKING == 4
  float third = (q.x - place.x) / (frame.z * place.z) * 3.0;
  return third < 1.0 ? vec3(0.0) : third < 2.0 ? vec3(1.0) : vec3(0.18);
#elif BACKING == 5
  return backingColour * gain;
#else
  vec2 uv = ((q - place.xy) / underPlace.xy - underCorner) / underPlace.zw;
  return within(uv) ? texture(under, uv).rgb * gain : vec3(0.0);
#endif
}
vec3 seen(vec4 v, vec2 screen) {
  if (any(isnan(v)) || any(isinf(v))) return vec3(1.0, 0.0, 1.0) * step(0.5, fract((screen.x - screen.y) / 6.0));
  vec4 c = v * gain;
#if CHANNEL == 0
  return display(c.rgb + (1.0 - clamp(v.a, 0.0, 1.0)) * behind(screen));
#elif CHANNEL == 1
  return display(c.rrr);
#elif CHANNEL == 2
  return display(c.ggg);
#elif CHANNEL == 3
  return display(c.bbb);
#elif CHANNEL == 4
  return vec3(clamp(c.a, 0.0, 1.0));
#elif CHANNEL == 5
  return display(vec3(dot(c.rgb, vec3(0.2126, 0.7152, 0.0722))));
#elif CHANNEL == 7
  return mix(display(c.rgb), vec3(0.81, 0.41, 0.23), 0.6 * (1.0 - clamp(v.a, 0.0, 1.0)));
#else
  float stripe = step(0.5, fract((screen.x + screen.y) / 9.0));
  if (v.a < 0.0) return mix(vec3(0.93, 0.42, 0.37), vec3(0.3, 0.05, 0.05), stripe);
  if (v.a == 0.0) return vec3(0.03);
  if (v.a > 1.0) return mix(vec3(0.85, 0.66, 0.28), vec3(0.35, 0.22, 0.0), stripe);
  if (v.a == 1.0) return vec3(0.91, 0.89, 0.85);
  return mix(vec3(0.12, 0.24, 0.23), vec3(0.55, 0.78, 0.74), v.a);
#endif
}
void main() {
  vec2 screen = vec2(gl_FragCoord.x, canvas.y - gl_FragCoord.y);
  vec2 at = screen;
#if COMPARE == 2
  vec2 half_ = vec2(canvas.x * 0.5, 0.0);
  bool second = screen.x >= half_.x;
  if (second) at -= half_;
#elif COMPARE == 1
  bool second = dot(screen - wipe.xy, wipe.zw) > 0.0;
#endif
  vec2 uv = ((at - place.xy) / place.zw - corner) / size;
  vec3 shown = surround;
#if COMPARE == 0
  if (within(uv)) shown = seen(texture(picture, uv), screen);
#else
  vec2 uvOther = ((at - place.xy) / otherPlace.xy - otherCorner) / otherPlace.zw;
#if COMPARE == 3
  if (within(uv)) {
    vec4 a = texture(picture, uv);
    vec4 b = within(uvOther) ? texture(other, uvOther) : vec4(0.0);
    vec4 d = abs(a - b) * differenceGain;
#if CHANNEL == 4
    shown = vec3(clamp(d.a, 0.0, 1.0));
#else
    shown = display(d.rgb * gain);
#endif
  }
#else
  if (within(second ? uvOther : uv)) {
    vec4 v;
    if (second) v = texture(other, uvOther);
    else v = texture(picture, uv);
    shown = seen(v, screen);
  }
#endif
#endif
  shown += (noise(screen) - 0.5) / 255.0;
#if CELLS
  if (within(uv)) {
    // Single pixels are told apart.
    vec2 cell = fract((at - place.xy) / place.zw) * place.zw;
    if (min(cell.x, cell.y) < 1.0) shown = mix(shown, vec3(0.5), 0.25);
  }
#endif
#if COMPARE == 1
  if (abs(dot(screen - wipe.xy, wipe.zw)) < 0.75) shown = vec3(0.91, 0.89, 0.85);
#elif COMPARE == 2
  if (abs(screen.x - half_.x) < 0.75) shown = vec3(0.42);
#endif
  line(at, frame, 0.8, shown);
  line(at, bounds, 0.45, shown);
  colour = vec4(shown, 1.0);
}`;
