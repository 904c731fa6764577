import * as yup from 'yup';
import { flag as bool, once, real, text } from '../../document/fields';
import { PLANE_MODELS } from '../../geometry/fit';
import type { PlaneReading } from '../types';
import { ORDER, common, following, inOrder, numbers, polygons, seen, tap } from './fields';
import { dataOf } from '../track-data';
import type { ReadingKind } from './kind';
import { decimal } from './kind';

const schema = yup.object({
  ...common,
  kind: text().oneOf(['plane']),
  settings: yup.object({ ...following, model: text().oneOf(PLANE_MODELS) }).required(),
  region: yup.object({ shapes: polygons(), without: polygons() }).required(),
  matte: yup
    .object({ ...tap, invert: bool().required() })
    .default(undefined)
    .optional(),
  surface: yup.array(numbers(2)).length(4).required(),
  frames: yup
    .array(
      once(yup.object({ ...seen, homography: numbers(9), used: yup.array(real()).optional(), rejected: yup.array(real()).optional() })),
    )
    .required()
    .test('order', ORDER, inOrder),
});

/** A flat part of the picture, followed frame by frame. */
export const PLANE: ReadingKind<PlaneReading> = {
  schema,
  taps: (r) => (r.matte ? [{ tap: r.matte, kind: 'readingMatte', use: 'matte' }] : []),
  moveTaps(r, to) {
    const matte = r.matte && to(r.matte);
    if (matte) r.matte = matte;
    else delete r.matte;
  },
  data: (r, _, scale) => dataOf(r, scale),
  table: (r) => [
    'frame,h11,h12,h13,h21,h22,h23,h31,h32,h33,confidence,error,flag',
    ...r.frames.map((f) => [f.frame, ...f.homography.map(String), decimal(f.confidence), decimal(f.error), f.flag ?? '']),
  ],
};
