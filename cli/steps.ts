import { kindOf } from '@/core/params';
import { STEPS } from '@/core/steps';
import { only, parseArguments } from './arguments';

/** Lists every step with its parameters, units, ranges and feeds. */
export async function steps(args: string[]): Promise<void> {
  const { options } = parseArguments(args, ['json']);
  only(options, ['json']);
  const list = [...STEPS.values()].map(({ type, title, family, summary, params, feeds }) => ({
    type,
    title,
    family,
    summary,
    params,
    feeds,
  }));
  if (options.has('json')) {
    // Infinity has no place in JSON: an open side of a range is left out.
    process.stdout.write(`${JSON.stringify(list, (_, v: unknown) => (v === Infinity || v === -Infinity ? undefined : v), 2)}\n`);
    return;
  }
  for (const s of list) {
    process.stdout.write(`${s.type}  ${s.title} (${s.family}): ${s.summary}\n`);
    for (const [name, p] of Object.entries(s.params)) {
      const told = kindOf(p).tell(p);
      process.stdout.write(`    ${name}: ${p.kind}${told && ` ${told}`}, ${JSON.stringify(p.default)}\n`);
    }
    for (const f of s.feeds) process.stdout.write(`    feed ${f.name}${f.required ? ' (needed)' : ''}: ${f.help}\n`);
  }
}
