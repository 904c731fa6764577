import * as yup from 'yup';
import { isNumbers, listOf } from '../params/list-of';

/** Colours that somebody marked in the picture. */
export interface ColourSample {
  /** Where and when they were taken, for showing them again: x0, y0, x1, y1 in full-size pixels. */
  frame: number;
  box: number[];
  of: 'screen' | 'subject';
  /** Scene-linear R, G, B after each other. */
  colours: number[];
}

const item = yup
  .object({
    frame: yup.number().strict().integer().required(),
    box: yup
      .mixed(isNumbers)
      .required()
      .test('corners', 'four numbers', (v) => v.length === 4),
    of: yup.string().oneOf(['screen', 'subject']).required(),
    // Hundreds of numbers: looked at by themselves, since a schema for each would take longer than the page may.
    colours: yup
      .mixed(isNumbers)
      .required()
      .test('threes', 'three numbers a colour', (v) => v.length % 3 === 0),
  })
  .required();

/** The samples of a parameter. Throws ShotError where it has none. */
export const samplesOf = listOf<ColourSample>(item, 'its samples are damaged; remove them and pick again');

/** Pixels that a sample keeps of its box. */
const MOST = 64;

/** A sample of a box of interleaved RGBA pixels: evenly spread ones of it, those of no finite colour left out. */
export function sampleBox(
  pixels: Float32Array,
  width: number,
  box: readonly [number, number, number, number],
  frame: number,
  of: ColourSample['of'],
): ColourSample {
  const [x0, y0, x1, y1] = box;
  const step = Math.max(1, Math.sqrt(((x1 - x0) * (y1 - y0)) / MOST));
  const colours: number[] = [];
  for (let y = y0 + step / 2; y < y1; y += step) {
    for (let x = x0 + step / 2; x < x1; x += step) {
      const i = 4 * (Math.floor(y) * width + Math.floor(x));
      const colour = [pixels[i]!, pixels[i + 1]!, pixels[i + 2]!];
      if (colour.every(Number.isFinite)) colours.push(...colour.map((v) => Number(v.toPrecision(5))));
    }
  }
  return { frame, box: [...box], of, colours };
}
