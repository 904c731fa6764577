import { gapsIn } from '@/core/document/media';

/** Endings of the files that can be read. */
export const READABLE = /\.(exr|png|jpe?g|webp|tiff?|dpx|hdr|mp4|m4v|mov|webm|mkv|cube)$/i;

/** Files that are a source each, whatever numbers their names end in. */
const SINGLE = /\.(mp4|m4v|mov|webm|mkv|cube)$/i;

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
}

/** Groups files into sequences: the same name around the last number of it, the same ending and folder. */
export function findSequences<F>(files: readonly F[], pathOf: (f: F) => string): FoundSequence<F>[] {
  const groups = new Map<string, { name: string; frames: { frame: number; file: F }[] }>();
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
    group.frames.push({ frame: tail ? Number(tail[1]) : 1, file });
    groups.set(key, group);
  }
  return [...groups.values()].map(({ name, frames }) => {
    frames.sort((a, b) => a.frame - b.frame);
    const still = frames.length === 1;
    const gaps = gapsIn(frames, frames[0]!.frame, frames[frames.length - 1]!.frame);
    return { name: still ? stillName(pathOf(frames[0]!.file)) : name, frames, still, gaps };
  });
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
