import type { Draft } from 'immer';
import type { Param } from '@/core/document/types';
import type { Change } from './change';
import { stepOf } from './change';

/** Puts parameters of a step as they are, keys and all. */
export const setKeys =
  (step: string, params: Record<string, Param>): Change =>
  (s) => {
    const found = stepOf(s, step).step;
    for (const [name, p] of Object.entries(params)) found.params[name] = p as Draft<Param>;
  };
