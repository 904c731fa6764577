import * as yup from 'yup';
import { LIMITS, fitName } from '../document/limits';
import { MediaError } from '../errors';
import { lensReadingOf } from '../lens/exchange';
import { newPoint } from './make';
import type { PointFrame } from './point';
import { kindOf, readingSchema } from './kinds';
import type { Reading } from './types';

/** Readings as JSON: what the document holds of them. */
export const formatReadings = (list: readonly Reading[]): string => `${JSON.stringify({ readings: list }, null, 1)}\n`;

/** A reading as a table, whose columns are named in its first line. */
export function formatTable(reading: Reading): string {
  const [columns, ...rows] = kindOf(reading).table(reading);
  return `${[columns, ...rows.map((r) => r.join(','))].join('\n')}\n`;
}

/** Readings of a file: JSON as written here, a lens's too, or a table of a point with the columns frame, x and y. Throws MediaError. */
export function parseReadings(content: string, file: string): Reading[] {
  if (content.trimStart().startsWith('{')) {
    try {
      const json = JSON.parse(content) as { readings?: unknown; coefficients?: unknown };
      if (json.readings === undefined && json.coefficients !== undefined) return [lensReadingOf(content, file)];
      return yup.array(readingSchema).required().validateSync(json.readings) as unknown as Reading[];
    } catch (e) {
      if (e instanceof MediaError) throw e;
      throw new MediaError(file, `it holds no readings (${(e as Error).message})`);
    }
  }
  const [head = '', ...lines] = content.split(/\r?\n/).filter((l) => l.trim() !== '');
  const columns = head.split(',').map((c) => c.trim().toLowerCase());
  const at = ['frame', 'x', 'y'].map((c) => columns.indexOf(c));
  if (at.some((i) => i < 0)) throw new MediaError(file, 'its first line does not name the columns frame, x and y');
  const confidence = columns.indexOf('confidence');
  const frames = lines.map((line, i): PointFrame => {
    const cells = line.split(',');
    const [frame, x, y] = at.map((k) => Number(cells[k])) as [number, number, number];
    if (![frame, x, y].every(Number.isFinite) || cells[at[0]!]!.trim() === '' || !Number.isInteger(frame)) {
      throw new MediaError(file, `line ${i + 2} is not a frame and two numbers: "${line}"`);
    }
    const sure = confidence < 0 ? 1 : Number(cells[confidence]);
    return { frame, x, y, confidence: sure >= 0 && sure <= 1 ? sure : 1, error: 0 };
  });
  if (frames.length === 0) throw new MediaError(file, 'it has no frames');
  frames.sort((a, b) => a.frame - b.frame);
  const twice = frames.find((f, i) => f.frame === frames[i - 1]?.frame);
  if (twice) throw new MediaError(file, `it has frame ${twice.frame} more than once; leave one line for each frame`);
  const far = frames.find((f) => Math.abs(f.frame) > LIMITS.frame);
  if (far) throw new MediaError(file, `its frame ${far.frame} is beyond ±${LIMITS.frame}`);
  const [first, last] = [frames[0]!, frames[frames.length - 1]!];
  const made = newPoint([first.x, first.y], { reference: first.frame, range: { first: first.frame, last: last.frame } });
  return [{ ...made, name: fitName(file.replace(/\.[^.]*$/, '')) || 'track', frames }];
}

/** Its mean confidence; null where it is not measured. */
export const overallConfidence = (r: Reading): number | null =>
  r.frames.length < 2 ? null : r.frames.reduce((s: number, f) => s + f.confidence, 0) / r.frames.length;
