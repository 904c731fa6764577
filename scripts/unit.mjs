// Runs Jest with what its projects need: a loader of TypeScript for the core's, modules in sandboxes for the pages'.
import { spawnSync } from 'node:child_process';

const flags = ['--no-warnings', '--experimental-vm-modules', '--import', './scripts/ts-loader.mjs', '--enable-source-maps'];
const { status } = spawnSync(process.execPath, [...flags, 'node_modules/jest/bin/jest.js', ...process.argv.slice(2)], { stdio: 'inherit' });
process.exit(status ?? 1);
