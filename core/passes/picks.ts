import * as yup from 'yup';
import { listOf } from '../params/list-of';

/** A thing of a render that was picked. */
export interface IdPick {
  /** Of a Cryptomatte eight hex digits; of numbers the number; of colours R, G, B by commas. */
  readonly id: string;
  /** Its name, where the render tells it. */
  readonly name?: string | undefined;
}

const item = yup.object({ id: yup.string().required().max(80), name: yup.string().max(400).optional() }).required();

/** The picks of a parameter. Throws ShotError where it has none. */
export const picksOf = listOf<IdPick>(item, 'its list of things is damaged; reset it and pick again');
