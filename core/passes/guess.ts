import { colourOfLayer } from '../steps/channels/pick-layer';
import type { PassFrame } from './pass-frame';
import { solidPixels } from './pass-frame';
import { guessDepth, guessMotion, guessNormal, placeCamera } from './guess-data';
import type { PassNote, RoledPass } from './roles';
import { MATERIAL_ROLES, roledPasses } from './roles';

export type { PassFrame } from './pass-frame';

/**
 * What the passes of a render are for, by their names and, where those do not say it all, by their numbers: how depth, positions, normals and motion are
 * meant is tried out against each other. `next` is the frame after it; without one nothing is known of motion. What cannot be told is assumed,
 * and noted as a doubt.
 */
export function guessPasses(frame: PassFrame, next?: PassFrame): Record<string, PassNote> {
  const notes: Record<string, PassNote> = {};
  const solid = solidPixels(frame);
  const passes = roledPasses(frame.channels);
  const byRole = (role: RoledPass['role']): RoledPass | undefined => passes.find((p) => p.role === role);
  for (const pass of passes) if (pass.name !== '') notes[pass.name] = { role: pass.role, reason: 'by its name' };
  for (const pass of passes)
    if (pass.role === 'other' && solid.length > 200 && isUnit(frame, pass, solid)) {
      notes[pass.name] = { role: 'normal', reason: 'its vectors are one long' };
      pass.role = 'normal';
    }
  pairRaw(passes, notes);
  leaveOutSums(frame, passes, notes, solid);
  const position = byRole('position');
  const normal = byRole('normal');
  const depth = byRole('depth');
  const motion = byRole('motion');
  const placed = position && placeCamera(frame, position, depth, solid);
  if (position && placed) notes[position.name] = placed.note;
  if (depth) notes[depth.name] = guessDepth(frame, depth, solid, placed, position);
  if (normal) notes[normal.name] = guessNormal(frame, normal, placed, solid, position);
  if (motion) notes[motion.name] = guessMotion(frame, next, motion, solid);
  return notes;
}

function isUnit({ planes }: PassFrame, pass: RoledPass, solid: readonly number[]): boolean {
  const [x, y, z] = pass.channels.map((c) => planes[c]);
  if (!x || !y || !z || pass.channels.length !== 3) return false;
  const good = solid.filter((i) => Math.abs(Math.hypot(x[i]!, y[i]!, z[i]!) - 1) < 0.02).length;
  return good > 0.95 * solid.length;
}

/** The word that raw light and its filter share: `diffuseRaw` and `diffuse_filter` both are `diffuse`. */
const stem = (name: string): string => name.toLowerCase().replace(/raw|filter|flt|total|lighting|[_. -]/g, '');

/** Raw light is a part only with its filter; without one it is none. */
function pairRaw(passes: readonly RoledPass[], notes: Record<string, PassNote>): void {
  for (const raw of passes.filter((p) => p.role === 'raw')) {
    const filter = passes.find((p) => p.role === 'filter' && stem(p.name) === stem(raw.name));
    notes[raw.name] = filter
      ? { role: 'raw', facts: { times: filter.name }, reason: `to be multiplied by ${filter.name}, which shares its name` }
      : { role: 'other', doubt: 'it is raw light, and no filter that shares its name is there' };
  }
}

/** A pass that is the sum of others with its name, such as direct and indirect, would count twice. */
function leaveOutSums(frame: PassFrame, passes: readonly RoledPass[], notes: Record<string, PassNote>, solid: readonly number[]): void {
  const material = passes.filter((p) => MATERIAL_ROLES.includes(notes[p.name]?.role ?? p.role));
  for (const whole of material) {
    const pieces = material.filter((p) => p !== whole && p.name.toLowerCase().startsWith(whole.name.toLowerCase()));
    if (pieces.length < 2) continue;
    let [apart, all] = [0, 0];
    const planesOf = (p: RoledPass) => colourOfLayer(frame.channels, p.name).map((c) => frame.planes[c]!);
    const own = planesOf(whole);
    const parts = pieces.map(planesOf);
    for (const i of solid) {
      for (let c = 0; c < 3; c++) {
        const sum = parts.reduce((s, p) => s + p[c]![i]!, 0);
        apart += Math.abs(own[c]![i]! - sum);
        all += Math.abs(own[c]![i]!);
      }
    }
    if (all > 0 && apart < 0.02 * all)
      notes[whole.name] = { role: 'other', reason: `it is the sum of ${pieces.map((p) => p.name).join(' and ')}` };
  }
}
