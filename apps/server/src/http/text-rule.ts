import type { HttpProblem } from './problem';
import { requestProblem } from './problem';

/** What PostgreSQL cannot hold as text: NUL, and halves of characters that have lost the other half (Unicode 15, 3.8, D75). */
const NO_TEXT = /\0|\p{Surrogate}/u;

/** Deeper than any request needs, and shallow enough for recursive code. */
const DEEPEST = 32;

/**
 * The one rule for text at the boundary, for everything that comes as JSON or in an address.
 * @throws HttpProblem 400 that names the field
 */
export function refuseNoText(value: unknown, where: string): void {
  const open: { value: unknown; path: string }[] = [{ value, path: '' }];
  for (let next = open.pop(); next; next = open.pop()) {
    const { value: at, path } = next;
    if (typeof at === 'string' && NO_TEXT.test(at)) throw noText(path, where);
    if (at === null || typeof at !== 'object') continue;
    for (const [key, inside] of Object.entries(at)) {
      if (NO_TEXT.test(key)) throw noText(path, where);
      open.push({ value: inside, path: path ? `${path}.${key}` : key });
    }
  }
}

const noText = (field: string, where: string): HttpProblem => {
  const message = 'Expected text without NUL and without broken characters. Type it again.';
  return requestProblem('invalid', `The ${where} of the request is not right. ${message}`, [{ code: 'field', field, message }]);
};

/**
 * Refuses JSON that lies deeper than anything we ask for, before it is read.
 * @param text JSON in UTF-8
 * @throws HttpProblem 400
 */
export function refuseDeep(text: Uint8Array): void {
  let depth = 0;
  let quoted = false;
  for (let at = 0; at < text.length; at++) {
    const sign = text[at];
    if (quoted) {
      if (sign === BACKSLASH) at++;
      else if (sign === QUOTE) quoted = false;
    } else if (sign === QUOTE) quoted = true;
    else if (sign === OPEN_ARRAY || sign === OPEN_OBJECT) {
      if (++depth > DEEPEST) throw requestProblem('invalid', `The body of the request is nested more than ${DEEPEST} deep.`);
    } else if (sign === CLOSE_ARRAY || sign === CLOSE_OBJECT) depth--;
  }
}

const [QUOTE, BACKSLASH, OPEN_ARRAY, CLOSE_ARRAY, OPEN_OBJECT, CLOSE_OBJECT] = [...'"\\[]{}'].map((sign) => sign.charCodeAt(0));
