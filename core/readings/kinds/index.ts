import * as yup from 'yup';
import type { Reading } from '../types';
import { CAMERA } from './camera';
import type { ReadingKind } from './kind';
import { LENS } from './lens';
import { LESSON } from './lesson';
import { PLANE } from './plane';
import { POINT } from './point';

const KINDS: { readonly [K in Reading['kind']]: ReadingKind<Extract<Reading, { kind: K }>> } = {
  point: POINT,
  plane: PLANE,
  lens: LENS,
  camera: CAMERA,
  lesson: LESSON,
};

/** The kind of a reading. */
export const kindOf = <R extends Reading>(reading: { readonly kind: R['kind'] }): ReadingKind<R> =>
  KINDS[reading.kind] as unknown as ReadingKind<R>;

/** A reading of a document, by its kind. */
export const readingSchema = yup.lazy((value: unknown) => {
  const kind = (value as { kind?: unknown } | null)?.kind;
  return (
    KINDS[(typeof kind === 'string' && Object.hasOwn(KINDS, kind) ? kind : 'point') as Reading['kind']].schema as yup.AnySchema
  ).required();
});
