import type { PictureInfo } from '../picture';
import { splitChannel } from '../picture';
import { floatOfId } from '../formats/cryptomatte';
import type { IdPick } from './picks';
import { passOf } from './roles';

/** A way in which a picture says what is where. */
export type IdSet =
  | {
      readonly kind: 'cryptomatte';
      readonly name: string;
      /** Channels of id and coverage, most coverage first. */ readonly ranks: readonly (readonly [string, string])[];
    }
  | { readonly kind: 'number'; readonly name: string; readonly channel: string }
  | { readonly kind: 'colour'; readonly name: string; readonly channels: readonly [string, string, string] };

const SPELLINGS = [
  ['R', 'G', 'B', 'A'],
  ['red', 'green', 'blue', 'alpha'],
] as const;

/** All that a picture has: its Cryptomattes by their common name, then passes of numbers or colours. */
export function idSets({ channels, passes = [] }: PictureInfo): IdSet[] {
  const sets: IdSet[] = [];
  const ranked = new Map<string, [string, string][]>();
  for (const { name, role } of [...passes].sort((a, b) => a.name.localeCompare(b.name))) {
    if (role === 'cryptomatte') {
      const common = name.replace(/\d\d$/, '');
      const spelling = common === name ? undefined : SPELLINGS.find((s) => s.every((c) => channels.includes(`${name}.${c}`)));
      if (!spelling) continue;
      const [r, g, b, a] = spelling.map((c) => `${name}.${c}`) as [string, string, string, string];
      ranked.set(common, [...(ranked.get(common) ?? []), [r, g], [b, a]]);
      continue;
    }
    if (role !== 'id') continue;
    const own = channels.filter((c) => splitChannel(c).layer === name || c === name);
    const rgb = ['R', 'G', 'B'].map((c) => `${name}.${c}`);
    if (rgb.every((c) => own.includes(c))) sets.push({ kind: 'colour', name, channels: rgb as [string, string, string] });
    else if (own[0]) sets.push({ kind: 'number', name, channel: own[0] });
  }
  return [...[...ranked].map(([name, ranks]): IdSet => ({ kind: 'cryptomatte', name, ranks })), ...sets];
}

/** The set of that name; the first without. */
export const idSetOf = (picture: PictureInfo, name: string): IdSet | undefined => {
  const sets = idSets(picture);
  return name === '' ? sets[0] : sets.find((s) => s.name === name || passOf(picture.passes, name, 'id')?.name === s.name);
};

/** The channels that hold a set. */
export function idChannels(set: IdSet): string[] {
  if (set.kind === 'cryptomatte') return set.ranks.flat();
  return set.kind === 'number' ? [set.channel] : [...set.channels];
}

const hexFloat = (hex: string): number => floatOfId(parseInt(hex, 16));

/** The picked ids as the floats that stand in the picture; of a colour three each. */
export const floatsOf = (set: IdSet, picks: readonly IdPick[]): Float32Array =>
  Float32Array.from(
    picks.flatMap(({ id }) =>
      set.kind === 'cryptomatte' ? [hexFloat(id)] : set.kind === 'number' ? [Number(id)] : id.split(',').map(Number),
    ),
  );

const bits = new DataView(new ArrayBuffer(4));

/** The id of what covers a pixel most, given the values of the set's channels there; null where nothing does. */
export function idAt(set: IdSet, valueOf: (channel: string) => number): string | null {
  if (set.kind === 'cryptomatte') {
    let best: { id: number; coverage: number } | null = null;
    for (const [id, coverage] of set.ranks) {
      const c = valueOf(coverage);
      if (c > (best?.coverage ?? 0)) best = { id: valueOf(id), coverage: c };
    }
    if (!best) return null;
    bits.setFloat32(0, best.id);
    return bits.getUint32(0).toString(16).padStart(8, '0');
  }
  if (set.kind === 'number') {
    const v = valueOf(set.channel);
    return v === 0 || !Number.isFinite(v) ? null : String(v);
  }
  const v = set.channels.map(valueOf);
  return v.every((x) => x === 0) ? null : v.map((x) => Number(x.toPrecision(6))).join(',');
}
