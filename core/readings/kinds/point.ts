import * as yup from 'yup';
import { finite, once, real, text } from '../../document/fields';
import { POINT_MODELS } from '../pattern';
import type { PointReading } from '../types';
import { ORDER, box, common, following, inOrder, numbers, seen } from './fields';
import { dataOf } from '../track-data';
import type { ReadingKind } from './kind';
import { decimal } from './kind';

const schema = yup.object({
  ...common,
  kind: text().oneOf(['point']),
  settings: yup
    .object({
      ...following,
      pattern: box(),
      search: box(),
      model: text().oneOf(POINT_MODELS),
      renew: text().oneOf(['never', 'every', 'guarded']),
    })
    .required(),
  at: numbers(2),
  frames: yup
    .array(once(yup.object({ ...seen, x: real(), y: real(), turn: finite(), scale: finite() })))
    .required()
    .test('order', ORDER, inOrder),
});

/** A detail, followed frame by frame. */
export const POINT: ReadingKind<PointReading> = {
  schema,
  data: (r, _, scale) => dataOf(r, scale),
  table: (r) => [
    'frame,x,y,confidence,error,flag',
    ...r.frames.map((f) => [f.frame, decimal(f.x), decimal(f.y), decimal(f.confidence), decimal(f.error), f.flag ?? '']),
  ],
};
