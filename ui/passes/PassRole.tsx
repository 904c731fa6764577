'use client';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import type { Source } from '@/core/document';
import type { PassFacts, PassNote, PassRole as Role, RoledPass } from '@/core/passes';
import { AXES, FACTS, PASS_ROLES } from '@/core/passes';
import { setPass } from '@/core/commands';
import { NumberField } from '../controls/NumberField';
import { useRun } from '../workbench/context';

/** What a pass is for and how its numbers are meant: as it was found, with why, and changed by hand. */
export function PassRole({ source, pass }: { source: Source; pass: RoledPass }) {
  const run = useRun();
  const facts = pass.facts ?? {};
  const put = (note: PassNote): void => void run(`What ${pass.name} is`, setPass(source.id, pass.name, note));
  const fact = (change: PassFacts): void => put({ role: pass.role, facts: { ...facts, ...change } });
  const choices = FACTS[pass.role] ?? [];
  const axes = AXES[pass.role] ?? '';
  const turned = facts.turned ?? '';
  return (
    <div className="pass-role">
      <Select
        size="small"
        fullWidth
        value={pass.role}
        inputProps={{ 'aria-label': `What ${pass.name} is` }}
        onChange={(e) => put({ role: e.target.value as Role })}
      >
        {Object.entries(PASS_ROLES).map(([role, title]) => (
          <MenuItem key={role} value={role}>
            {title}
          </MenuItem>
        ))}
      </Select>
      {choices.map(({ fact: name, title, options }) => (
        <label key={name}>
          <span>{title}</span>
          <Select
            size="small"
            value={String(facts[name] === undefined || facts[name] === false ? options[0]![0] : facts[name])}
            displayEmpty
            inputProps={{ 'aria-label': `${pass.name}: ${title.toLowerCase()}` }}
            onChange={(e) => fact({ [name]: name === 'packed' ? e.target.value === 'true' : e.target.value } as PassFacts)}
          >
            {options.map(([value, text]) => (
              <MenuItem key={value} value={value}>
                {text}
              </MenuItem>
            ))}
          </Select>
        </label>
      ))}
      {axes && (
        <label>
          <span>Turned</span>
          <span className="inline">
            {[...axes].map((axis) => (
              <button
                key={axis}
                className={`pill${turned.includes(axis) ? ' on' : ''}`}
                aria-pressed={turned.includes(axis)}
                aria-label={`${pass.name}: ${axis} turned`}
                onClick={() => fact({ turned: [...axes].filter((a) => turned.includes(a) !== (a === axis)).join('') })}
              >
                {axis}
              </button>
            ))}
          </span>
        </label>
      )}
      {pass.role === 'depth' && facts.as === 'nearness' && (
        <label>
          <span>0 is, 1 is</span>
          <span className="inline">
            {[0, 1].map((k) => (
              <NumberField
                key={k}
                label={`${pass.name}: distance of ${k}`}
                value={(facts.from ?? [100, 1])[k]!}
                min={0}
                step={0.1}
                onChange={(v) => fact({ from: k === 0 ? [v, (facts.from ?? [100, 1])[1]] : [(facts.from ?? [100, 1])[0], v] })}
              />
            ))}
          </span>
        </label>
      )}
      {pass.role === 'depth' && facts.as !== 'nearness' && (
        <label title="This distance and greater ones mean that nothing is there">
          <span>Nothing from</span>
          <NumberField
            label={`${pass.name}: nothing from`}
            value={facts.nothing ?? 1e10}
            min={0}
            step={1}
            onChange={(nothing) => fact({ nothing })}
          />
        </label>
      )}
      {pass.reason && <small className="dust">{pass.reason}.</small>}
      {pass.doubt && <small className="doubt">{pass.doubt}.</small>}
    </div>
  );
}
