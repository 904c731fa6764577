import * as yup from 'yup';
import { finite, flag as bool, frame, once, real, text } from '../../document/fields';
import { LENS_MODEL_NAMES } from '../../lens/models';
import { CHART_PATTERNS, lensDataOf } from '../../lens/reading';
import { lensSchema } from '../../lens/schema';
import type { LensReading } from '../types';
import { ORDER, common, inOrder, numbers, seen } from './fields';
import type { ReadingKind } from './kind';
import { decimal } from './kind';

const schema = yup.object({
  ...common,
  kind: text().oneOf(['lens']),
  settings: yup
    .object({
      pattern: text().oneOf(['auto', ...CHART_PATTERNS]),
      model: text().oneOf(['auto', ...LENS_MODEL_NAMES]),
      mm: real().min(0),
      sensor: real().min(0),
      squeeze: real().moreThan(0),
    })
    .required(),
  frames: yup
    .array(
      once(
        yup.object({
          ...seen,
          pattern: text().oneOf(CHART_PATTERNS),
          mm: finite().min(0).optional(),
          crossings: yup
            .array(
              once(
                yup.object({
                  column: real(),
                  row: real(),
                  x: real(),
                  y: real(),
                  used: bool().required(),
                  hand: bool().optional(),
                  why: yup.string().strict().max(200).optional(),
                  off: yup.array(real()).length(2).optional(),
                }),
              ),
            )
            .required()
            .max(20_000),
        }),
      ),
    )
    .required()
    .test('order', ORDER, inOrder),
  lines: yup
    .array(
      once(
        yup.object({
          frame: frame(),
          drawn: numbers().min(4),
          found: numbers(),
          ruler: bool().optional(),
          bend: finite().optional(),
          left: finite().optional(),
          out: bool().optional(),
        }),
      ),
    )
    .required(),
  solved: yup
    .array(
      once(
        yup.object({
          lens: lensSchema.required(),
          mm: finite().min(0).optional(),
          rms: real().min(0),
          max: real().min(0),
          rings: yup.array(yup.number().nullable()).required(),
          assumed: bool().optional(),
        }),
      ),
    )
    .required(),
});

/** A lens, from charts or straight things. */
export const LENS: ReadingKind<LensReading> = {
  schema,
  data: (r) => lensDataOf(r),
  table: (r) => [
    'frame,column,row,x,y,used,offX,offY',
    ...r.frames.flatMap((f) =>
      f.crossings.map((c) => [f.frame, c.column, c.row, decimal(c.x), decimal(c.y), Number(c.used), ...(c.off ?? ['', ''])]),
    ),
  ],
};
