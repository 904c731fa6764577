// Installs what package-lock.json names when node_modules is missing or older than it. Needs nothing but Node.js and npm.
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const stamp = join(root, 'node_modules/.installed');
const lock = createHash('sha256')
  .update(readFileSync(join(root, 'package-lock.json')))
  .digest('hex');

export function install() {
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  // Not `npm ci`: it refuses a lock file that leaves out builds for other systems, which not every registry mirror offers.
  execFileSync('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  writeFileSync(stamp, lock);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) install();
