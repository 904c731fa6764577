import { ShotError, messageOf } from '../errors';
import { LIMITS } from './limits';
import { parseShot } from './schema';
import type { Shot } from './types';

/** Brackets inside each other; a document has about ten. */
const MOST_DEPTH = 64;

/**
 * JSON of at most so many letters and not too deep: a small text can otherwise take gigabytes to read. Throws ShotError.
 */
export function parseJson(text: string): unknown {
  if (text.length > LIMITS.document) throw new ShotError(`it is larger than ${LIMITS.document / 2 ** 20} MB`);
  let depth = 0;
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (quoted) {
      if (c === 92) i++;
      else if (c === 34) quoted = false;
    } else if (c === 34) quoted = true;
    else if (c === 91 || c === 123) {
      if (++depth > MOST_DEPTH) throw new ShotError(`its JSON is nested more than ${MOST_DEPTH} deep`);
    } else if (c === 93 || c === 125) depth--;
  }
  try {
    return JSON.parse(text);
  } catch (e) {
    throw new ShotError(`it is not JSON (${messageOf(e)})`);
  }
}

/** A shot from the text of a file. Throws ShotError. */
export const parseShotText = (text: string): Shot => parseShot(parseJson(text));
