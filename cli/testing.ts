import { execFileSync, spawnSync } from 'node:child_process';
import { refusal, runCommand } from './command';

let built = '';

/** Runs the command as `npm run ostracon --` does, built once for all calls of a test file. */
export function run(...args: string[]): { status: number | null; out: string; err: string } {
  built ||= execFileSync(process.execPath, ['scripts/run.mjs', '--build', 'cli/main.ts'], { encoding: 'utf8' }).trim();
  const r = spawnSync(process.execPath, ['--no-warnings', built, ...args], {
    encoding: 'utf8',
    maxBuffer: 1 << 26,
    env: { ...process.env, OSTRACON_ROOT: process.cwd() },
  });
  return { status: r.status, out: r.stdout, err: r.stderr };
}

/** Has a command refused in this process: another's start takes longer than what it does before it refuses. */
export const refused = (...args: readonly string[]): Promise<{ status: number; err: string }> =>
  runCommand(args).then(() => ({ status: 0, err: '' }), refusal);
