import { strFromU8, strToU8 } from 'fflate';
import { MediaError } from '../errors';
import type { Learnt } from './apply';
import type { Teaches } from './lesson';
import { TEACHES, setsOf } from './lesson';
import { TABLE } from './look';
import { placesOf } from './net';
import type { TrainingState } from './trainer';
import { startOf } from './trainer';

/** What a lesson's file says besides its numbers. */
export interface LessonNote {
  readonly name: string;
  readonly teaches: Teaches;
  readonly steps: number;
  readonly seconds: number;
  /** Frames and settings that it was taught by, for reading. */
  readonly about: Readonly<Record<string, unknown>>;
}

export interface LessonFile {
  readonly note: LessonNote;
  readonly learnt: Learnt;
  /** All that a training goes on from. */
  readonly state: TrainingState;
}

const MAGIC = 'OSTRALS1';
const LONGEST_NOTE = 2 ** 20;

/**
 * A lesson as one file: eight letters, the length of a JSON note (32 bits, little-endian), the note in UTF-8 padded by spaces to a
 * multiple of four, then float32 arrays in the order that the note names them. `toApply` leaves out what only a training needs.
 */
export function writeLesson({ note, learnt, state }: LessonFile, toApply = false): Uint8Array {
  const { look } = learnt;
  const arrays: [string, Float32Array][] = [
    ['whiten', look.whiten],
    ['box', look.box],
    ['table', look.table],
    ['means', state.means],
    ...(toApply
      ? []
      : ([
          ['weights', state.weights],
          ['first', state.first],
          ['second', state.second],
        ] satisfies [string, Float32Array][])),
  ];
  const json = JSON.stringify({ ...note, size: state.size, arrays: arrays.map(([name, a]) => [name, a.length]) });
  const head = strToU8(json);
  const padded = Math.ceil(head.length / 4) * 4;
  const bytes = new Uint8Array(12 + padded + 4 * arrays.reduce((s, [, a]) => s + a.length, 0)).fill(32, 12, 12 + padded);
  bytes.set(strToU8(MAGIC));
  const view = new DataView(bytes.buffer);
  view.setUint32(8, padded, true);
  bytes.set(head, 12);
  let at = 12 + padded;
  for (const [, a] of arrays)
    for (const v of a) {
      view.setFloat32(at, v, true);
      at += 4;
    }
  return bytes;
}

/** Throws MediaError, saying what is wrong. */
export function readLesson(bytes: Uint8Array, file: string): LessonFile {
  const fail = (problem: string): never => {
    throw new MediaError(file, problem);
  };
  if (bytes.length < 12 || strFromU8(bytes.subarray(0, 8)) !== MAGIC) fail('this is no lesson: bring in a file that was saved from one');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = view.getUint32(8, true);
  if (length > LONGEST_NOTE || 12 + length > bytes.length) fail('it is cut off, or damaged at its beginning');
  let json: Record<string, unknown> = {};
  try {
    json = JSON.parse(strFromU8(bytes.subarray(12, 12 + length))) as Record<string, unknown>;
  } catch {
    fail('its note cannot be read: the file is damaged');
  }
  const teaches = json.teaches as Teaches;
  if (!TEACHES.includes(teaches)) fail(`it teaches "${String(json.teaches)}", which this version does not know`);
  const weights = placesOf(setsOf(teaches)).length;
  const wanted: Record<string, number> = {
    whiten: 12,
    box: 6,
    table: TABLE ** 3,
    means: weights,
    weights,
    first: weights,
    second: weights,
  };
  const found: Record<string, Float32Array> = {};
  let at = 12 + length;
  for (const entry of Array.isArray(json.arrays) ? (json.arrays as unknown[]) : []) {
    const [name, count] = entry as [string, number];
    if (wanted[name] !== count) fail(`its ${name} are ${count} numbers, not ${wanted[name] ?? 'known here'}: they are of another net`);
    if (at + 4 * count > bytes.length) fail('it is cut off');
    const list = Float32Array.from({ length: count }, (_, i) => view.getFloat32(at + 4 * i, true));
    if (!list.every(Number.isFinite)) fail(`its ${name} hold numbers that are none: the file is damaged`);
    found[name] = list;
    at += 4 * count;
  }
  const lacking = ['whiten', 'box', 'table', 'means'].find((name) => !found[name]);
  if (lacking) fail(`its ${lacking} are missing`);
  const { whiten, box, table, means } = found as Record<'whiten' | 'box' | 'table' | 'means', Float32Array>;
  // What is made to be applied alone leaves the rest out: a training goes on from its means.
  const start = startOf(teaches, 1, found.weights ?? means.slice());

  const number = (v: unknown): number => (typeof v === 'number' && Number.isFinite(v) && v >= 0 ? v : 0);
  const steps = Math.floor(number(json.steps));
  return {
    note: {
      name: typeof json.name === 'string' ? json.name.slice(0, 200) : '',
      teaches,
      steps,
      seconds: number(json.seconds),
      about: typeof json.about === 'object' && json.about !== null ? (json.about as Record<string, unknown>) : {},
    },
    learnt: { teaches, weights: means, look: { whiten, box, table } },
    state: {
      ...start,
      step: steps,
      means,
      ...(found.first && found.second && { first: found.first, second: found.second, size: number(json.size) }),
    },
  };
}
