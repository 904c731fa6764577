import { resolve } from 'node:path';
import { LIMITS } from '@/core/document';

/** The command was used wrongly: exit status 2. */
export class UsageError extends Error {}

/** Words and `--options` of a command line; options named in `flags` take no value. */
export function parseArguments(args: readonly string[], flags: readonly string[]): { words: string[]; options: Map<string, string> } {
  const words: string[] = [];
  const options = new Map<string, string>();
  for (let i = 0; i < args.length; i++) {
    const a = args[i]!;
    if (!a.startsWith('--')) words.push(a);
    else if (flags.includes(a.slice(2))) options.set(a.slice(2), 'yes');
    else {
      const value = args[++i];
      if (value === undefined) throw new UsageError(`${a} needs a value`);
      options.set(a.slice(2), value);
    }
  }
  return { words, options };
}

export function only(options: ReadonlyMap<string, string>, allowed: readonly string[]): void {
  for (const name of options.keys()) if (!allowed.includes(name)) throw new UsageError(`there is no option --${name}`);
}

/** `A-B` or `A`. */
export function parseFrames(text: string): { first: number; last: number } {
  const m = /^(-?\d+)(?:-(-?\d+))?$/.exec(text);
  if (!m) throw new UsageError(`--frames takes A-B or A, not "${text}"`);
  const first = Number(m[1]);
  const last = m[2] === undefined ? first : Number(m[2]);
  const beyond = [first, last].find((f) => Math.abs(f) > LIMITS.frame);
  if (beyond !== undefined) throw new UsageError(`--frames: ${beyond} is beyond frame ±${LIMITS.frame}`);
  if (last - first >= LIMITS.range) throw new UsageError(`--frames ${text} are more than ${LIMITS.range} frames`);
  if (last < first) throw new UsageError(`--frames ${text} ends before it starts`);
  return { first, last };
}

/** Throws UsageError where frames that were asked for are not among those there are, unless that was asked for too. */
export function within(asked: Range, there: Range, options: ReadonlyMap<string, string>): void {
  if (options.has('beyond') || (asked.first >= there.first && asked.last <= there.last)) return;
  throw new UsageError(`--frames ${asked.first}-${asked.last} reach beyond ${there.first}-${there.last}; ask for less, or add --beyond`);
}

interface Range {
  first: number;
  last: number;
}

/** Paths are relative to where the command was called, also through npm. */
export const userPath = (path: string): string => resolve(process.env.INIT_CWD ?? process.cwd(), path);
