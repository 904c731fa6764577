import { LIMITS, gapsIn } from '@/core/document';

/** Endings of the files that can be read. */
export const READABLE = /\.(exr|png|jpe?g|webp|tiff?|dpx|hdr|mp4|m4v|mov|webm|mkv|cube|glb|gltf|obj)$/i;

/** Files that are a source each, whatever numbers their names end in. */
const SINGLE = /\.(mp4|m4v|mov|webm|mkv|cube|glb|gltf|obj)$/i;

/** A regular expression for a file name with #### or %04d, capturing the number; null for a plain name. */
export function patternExpression(name: string): RegExp | null {
  const hashes = /#+/.exec(name);
  const printf = /%0?(\d*)d/.exec(name);
  const mark = hashes ?? printf;
  if (!mark) return null;
  const width = hashes ? hashes[0].length : Number(printf![1] || 1);
  const quote = (s: string): string => s.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  return new RegExp(`^${quote(name.slice(0, mark.index))}(-?\\d{${width},})${quote(name.slice(mark.index + mark[0].length))}$`);
}

/** The name of a frame: #### becomes the number padded to that many digits, %04d likewise. */
export function frameName(pattern: string, frame: number): string {
  const pad = (n: number): string => (frame < 0 ? '-' : '') + String(Math.abs(frame)).padStart(n, '0');
  return pattern.replace(/#+/, (m) => pad(m.length)).replace(/%0?(\d*)d/, (_, n: string) => pad(Number(n || 1)));
}

export interface FoundSequence<F> {
  /** Name without number and ending. */
  name: string;
  /** In order of number; a still has one. */
  frames: { frame: number; file: F }[];
  still: boolean;
  /** Numbers that are missing between the first and the last. */
  gaps: number[];
  /** What was done to numbers that cannot be frames as they are, in words. */
  renumbered?: string;
}

/** Groups files into sequences: the same name around the last number of it, the same ending and folder. */
export function findSequences<F>(files: readonly F[], pathOf: (f: F) => string): FoundSequence<F>[] {
  const groups = new Map<string, { name: string; frames: { digits: string; file: F }[] }>();
  for (const file of files) {
    const path = pathOf(file);
    const tail = SINGLE.test(path) ? null : /(\d+)(\.[^.]+)$/.exec(path);
    const head = tail ? path.slice(0, tail.index) : path;
    const key = tail ? `${head}#${tail[2]!.toLowerCase()}` : path;
    const name =
      head
        .split('/')
        .pop()!
        .replace(/[._\-\s]+$/, '') || path;
    const group = groups.get(key) ?? { name, frames: [] };
    group.frames.push({ digits: tail?.[1] ?? '1', file });
    groups.set(key, group);
  }
  return [...groups.values()].map((group) => {
    const { frames, renumbered } = numbered(group.frames, (f) => pathOf(f).split('/').pop()!);
    const still = frames.length === 1;
    const gaps = gapsIn(frames, frames[0]!.frame, frames[frames.length - 1]!.frame);
    const name = still ? stillName(pathOf(frames[0]!.file)) : group.name;
    return { name, frames, still, gaps, ...(renumbered !== undefined && !still && { renumbered }) };
  });
}

/** Numbers that lie further apart than this many times their count are dates or times, not frames. */
const SPARSE = 100;

/**
 * The files in the order of their numbers, of any length. Numbers beyond what a frame can be count from 1: with their gaps where
 * they lie close together, else one after the other. Of two files with one number the first is taken.
 */
function numbered<F>(
  files: readonly { digits: string; file: F }[],
  nameOf: (f: F) => string,
): Pick<FoundSequence<F>, 'frames' | 'renumbered'> {
  const sorted = files.map((f) => ({ ...f, number: BigInt(f.digits) }));
  sorted.sort((a, b) => (a.number < b.number ? -1 : a.number > b.number ? 1 : 0));
  const twice = sorted.filter((f, i) => f.number === sorted[i - 1]?.number);
  const once = sorted.filter((f) => !twice.includes(f));
  const told = twice.length ? [`${nameOf(twice[0]!.file)} has the number of another file and was left out`] : [];
  const [first, last] = [once[0]!.number, once[once.length - 1]!.number];
  if (last <= BigInt(LIMITS.frame)) {
    const frames = once.map(({ number, file }) => ({ frame: Number(number), file }));
    return { frames, ...(told.length && { renumbered: told.join('; ') }) };
  }
  const close = last - first < BigInt(SPARSE * once.length) && last - first < BigInt(LIMITS.frame);
  told.push(
    close
      ? `its numbers begin at ${first}, which is no frame; they count from 1 here`
      : 'its numbers lie too far apart to be frames; they are taken one after the other, from 1',
  );
  const frames = once.map(({ number, file }, i) => ({ frame: close ? Number(number - first) + 1 : i + 1, file }));
  return { frames, renumbered: told.join('; ') };
}

const stillName = (path: string): string =>
  path
    .split('/')
    .pop()!
    .replace(/\.[^.]+$/, '');

/** "3, 7–9, 12" */
export function rangesText(numbers: readonly number[]): string {
  const parts: string[] = [];
  for (let i = 0; i < numbers.length; i++) {
    let j = i;
    while (numbers[j + 1] === numbers[j]! + 1) j++;
    parts.push(j > i ? `${numbers[i]}–${numbers[j]}` : String(numbers[i]));
    i = j;
  }
  return parts.join(', ');
}
