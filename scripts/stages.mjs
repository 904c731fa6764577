// Runs the stages of a command one after the other and prints how long each took.
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
const begun = performance.now();
export const seconds = (since = begun) => `${((performance.now() - since) / 1000).toFixed(1)} s`;

/** Runs a function, or a command and its arguments; ends the process where it fails. */
export function stage(title, what, env = {}) {
  const since = performance.now();
  process.stdout.write(`\n— ${title}\n`);
  if (typeof what === 'function') what();
  else {
    const run = spawnSync(what[0], what.slice(1), {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...env },
    });
    if (run.status !== 0) {
      process.stderr.write(`\n${title} failed after ${seconds(since)}.\n`);
      process.exit(run.status ?? 1);
    }
  }
  process.stdout.write(`  ${title}: ${seconds(since)}\n`);
}

/** Runs one of the installed tools with this Node.js. */
export const tool = (path, ...args) => [process.execPath, `node_modules/${path}`, ...args];
