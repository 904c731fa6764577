// npm run licences: lists the licences of what the application and its tests are built with in docs/licences.md.
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './stages.mjs';

const json = (path) => JSON.parse(readFileSync(join(root, path), 'utf8'));
const { dependencies, devDependencies } = json('package.json');
const rows = (list) =>
  Object.keys(list)
    .sort()
    .map((name) => {
      const { version, license, licenses } = json(`node_modules/${name}/package.json`);
      return `| ${name} | ${version} | ${license ?? licenses?.map((l) => l.type).join(', ') ?? 'see the package'} |`;
    })
    .join('\n');
const all = Object.entries(json('package-lock.json').packages).filter(([path]) => path !== '');
const counts = new Map();
for (const [, { license = 'not said in the lock file' }] of all) counts.set(license, (counts.get(license) ?? 0) + 1);
const summary = [...counts].sort((a, b) => b[1] - a[1]).map(([name, n]) => `| ${name} | ${n} |`);
const head = '| package | version | licence |\n| --- | --- | --- |';
writeFileSync(
  join(root, 'docs/licences.md'),
  `# Licences

Ostracon itself is under the MIT licence (see LICENSE). Written by \`npm run licences\`.

## What the application is made of

${head}
${rows(dependencies)}

## What builds and tests it

${head}
${rows(devDependencies)}

## All packages, those that these need included

| licence | packages |
| --- | ---: |
${summary.join('\n')}
`,
);
