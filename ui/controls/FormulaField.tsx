'use client';
import OutlinedInput from '@mui/material/OutlinedInput';
import { useState } from 'react';
import { messageOf } from '@/core/errors';
import { FUNCTIONS, compileFormula } from '@/core/formula';
import type { ParamOf } from '@/core/param';
import { FORMULA_NAMES } from '@/core/steps';
import type { FieldProps } from './field-props';

const WORDS = `Names: ${FORMULA_NAMES.join(', ')}. Functions: ${FUNCTIONS.join(', ')}. Also + − * / % ^, comparisons, and a ? b : c.`;

/** A line of arithmetic. What is wrong with it is said while it is written, and the picture keeps the last one that was right. */
export function FormulaField({ d, value, set }: FieldProps<ParamOf<'formula'>, string>) {
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? value;
  const problem = ((): string | null => {
    if (shown.trim() === '') return null;
    try {
      compileFormula(shown, FORMULA_NAMES);
      return null;
    } catch (e) {
      return messageOf(e);
    }
  })();
  const take = (): void => {
    if (problem) return;
    if (shown !== value) set(shown);
    setText(null);
  };
  return (
    <div className="formula">
      <OutlinedInput
        size="small"
        fullWidth
        value={shown}
        placeholder="as it is"
        error={problem !== null}
        inputProps={{
          'aria-label': d.title,
          'aria-invalid': problem !== null,
          spellCheck: false,
          title: WORDS,
          style: { fontFamily: 'IBM Plex Mono, monospace' },
        }}
        onChange={(e) => setText(e.target.value)}
        onBlur={take}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') take();
          if (e.key === 'Escape') setText(null);
        }}
      />
      {problem && (
        <small className="warn-text" role="alert">
          {problem}
        </small>
      )}
    </div>
  );
}
