// Runs Jest with a loader of TypeScript.
import { spawnSync } from 'node:child_process';

const flags = ['--no-warnings', '--import', './scripts/ts-loader.mjs', '--enable-source-maps'];
const { status } = spawnSync(process.execPath, [...flags, 'node_modules/jest/bin/jest.js', ...process.argv.slice(2)], { stdio: 'inherit' });
process.exit(status ?? 1);
