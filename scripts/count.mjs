// Counts lines of code and of tests among the files git tracks.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

const files = execFileSync('git', ['ls-files', '-z', '*.ts', '*.tsx', '*.mjs', '*.css']).toString().split('\0').filter(Boolean);
const isTest = (f) => /\.test\.tsx?$/.test(f) || f.startsWith('e2e/') || f.includes('/testing/');
let [code, tests] = [0, 0];
for (const f of files) {
  const n = readFileSync(f, 'utf8').split('\n').length - 1;
  if (isTest(f)) tests += n;
  else code += n;
}
const share = (of) => `${((100 * tests) / of).toFixed(0)} %`;
console.log(`code ${code} lines, tests ${tests} lines: tests are ${share(code)} of the code, ${share(code + tests)} of both`);
