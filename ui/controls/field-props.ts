import type { ComponentType } from 'react';
import type { Step, Value } from '@/core/document';
import type { ParamDefinition } from '@/core/param';

/** What a field that edits a parameter is told. */
export interface FieldProps<D extends ParamDefinition = ParamDefinition, V = Value> {
  d: D;
  value: V;
  set(v: Value, gesture?: string): void;
  step: Step;
  name: string;
  onProblem(p: string | null): void;
  /** A row of another parameter of the step, for fields that hold some. */
  Row: ComponentType<{ step: Step; name: string; definition: ParamDefinition }>;
}
