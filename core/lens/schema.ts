import * as yup from 'yup';
import { real, text } from '../document/fields';
import { numbers } from '../readings/kinds/fields';
import { LENS_MODEL_NAMES } from './models';

/** A lens by itself, as a reading holds it and as it is written to a file. */
export const lensSchema = yup.object({
  model: text().oneOf(LENS_MODEL_NAMES),
  coefficients: yup
    .object()
    .required()
    .test(
      'terms',
      '${path} are not all numbers',
      (v) => Object.keys(v).length <= 32 && Object.values(v).every((k) => typeof k === 'number' && Number.isFinite(k)),
    ),
  centre: numbers(2),
  focal: real().moreThan(0),
  squeeze: real().moreThan(0),
  format: yup.object({ width: real().moreThan(0), height: real().moreThan(0) }).required(),
});
