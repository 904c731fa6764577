// npm run demo [-- --host ADDRESS]: installs, builds, and serves the demo film. A second start only serves.
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { install } from './install.mjs';
import { root, seconds, stage, tool } from './stages.mjs';

/** Stands for everything the build reads. */
function sourceKey() {
  const hash = createHash('sha256');
  const walk = (path) => {
    const at = join(root, path);
    if (!existsSync(at)) return;
    if (statSync(at).isDirectory()) {
      for (const name of readdirSync(at).sort()) if (!['media', 'build', 'node_modules'].includes(name)) walk(join(path, name));
    } else hash.update(path).update(readFileSync(at));
  };
  ['app', 'ui', 'store', 'engine', 'core', 'kernels', 'public', 'next.config.ts', 'proxy.ts', 'package-lock.json'].forEach(walk);
  return hash.digest('hex');
}

const hostAt = process.argv.indexOf('--host');
/** Only this computer reaches the application, unless an address is given. */
const host = hostAt < 0 ? '127.0.0.1' : (process.argv[hostAt + 1] ?? '0.0.0.0');

/** The wanted port, or the next one that is free. */
async function freePort(from) {
  for (let port = from; ; port++) {
    const free = await new Promise((done) => {
      const server = createServer();
      server.once('error', () => done(false));
      server.listen(port, host, () => server.close(() => done(true)));
    });
    if (free) return port;
  }
}

stage('Install', install);
stage('Kernels', [process.execPath, 'scripts/build-kernels.mjs']);
const stamp = join(root, '.next/built-from');
const key = sourceKey();
if (!existsSync(stamp) || readFileSync(stamp, 'utf8') !== key) {
  stage('Build', tool('next/dist/bin/next', 'build'));
  writeFileSync(stamp, key);
}
stage('Demo film', () => {
  const media = join(root, 'demo/media');
  for (const shot of readdirSync(media).sort()) {
    process.stdout.write(`  ${shot.toUpperCase()}: ${readdirSync(join(media, shot)).length} files in place\n`);
  }
});

const port = await freePort(Number(process.env.PORT ?? 3000));
const server = spawn(process.execPath, [join(root, 'node_modules/next/dist/bin/next'), 'start', '-H', host, '-p', String(port)], {
  cwd: root,
  stdio: ['ignore', 'ignore', 'inherit'],
  env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
});
server.on('exit', (code) => process.exit(code ?? 1));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
const address = `http://${['127.0.0.1', '0.0.0.0'].includes(host) ? 'localhost' : host}:${port}/`;
for (;;) {
  const up = await fetch(address).then(
    (r) => r.ok,
    () => false,
  );
  if (up) break;
  await new Promise((done) => setTimeout(done, 100));
}
process.stdout.write(`\nOstracon is at ${address} (${seconds()} from the start). Ctrl+C ends it.\n`);
