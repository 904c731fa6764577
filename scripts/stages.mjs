// Runs the stages of a command one after the other and prints how long each took.
import { Buffer } from 'node:buffer';
import { spawn, spawnSync } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
const begun = performance.now();
export const seconds = (since = begun) => `${((performance.now() - since) / 1000).toFixed(1)} s`;

const environment = { ...process.env, NEXT_TELEMETRY_DISABLED: '1' };

/** Runs a function, or a command and its arguments; ends the process where it fails. */
export function stage(title, what, env = {}) {
  const since = performance.now();
  process.stdout.write(`\n— ${title}\n`);
  if (typeof what === 'function') what();
  else {
    const run = spawnSync(what[0], what.slice(1), {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...environment, ...env },
    });
    if (run.status !== 0) {
      process.stderr.write(`\n${title} failed after ${seconds(since)}.\n`);
      process.exit(run.status ?? 1);
    }
  }
  process.stdout.write(`  ${title}: ${seconds(since)}\n`);
}

/**
 * Runs stages that do not need each other, titles with commands, as many at a time as there are cores. What each says is shown when it has ended;
 * the process ends once one has failed.
 */
export async function together(...stages) {
  const waiting = [...stages];
  const inTurn = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const [title, [command, ...args]] = next;
      const since = performance.now();
      const said = [];
      const run = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], env: environment });
      for (const stream of [run.stdout, run.stderr]) stream.on('data', (bytes) => said.push(bytes));
      const status = await new Promise((done) => run.on('close', done));
      process.stdout.write(`\n— ${title}\n${Buffer.concat(said).toString()}`);
      if (status !== 0) {
        process.stderr.write(`\n${title} failed after ${seconds(since)}.\n`);
        process.exit(status ?? 1);
      }
      process.stdout.write(`  ${title}: ${seconds(since)}\n`);
    }
  };
  await Promise.all(Array.from({ length: Math.min(stages.length, availableParallelism()) }, inTurn));
}

/** Runs one of the installed tools with this Node.js. */
export const tool = (path, ...args) => [process.execPath, `node_modules/${path}`, ...args];
