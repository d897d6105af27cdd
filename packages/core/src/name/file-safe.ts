/** Device names that Windows keeps for itself, with or without an extension. */
const RESERVED = /^(?:con|prn|aux|nul|com[0-9]|lpt[0-9])(?:\.|$)/i;

/**
 * Signs that nobody sees and that make a name read as another: controls of the writing direction (UAX #9), separators of lines and
 * paragraphs, the byte order mark, and halves of characters.
 */
const UNSEEN = /[\u0085\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]|\p{Surrogate}/gu;

/** The most bytes of a stem: file systems allow 255 for the whole name; the rest is for `-123`, the extension and a temporary name. */
export const STEM_BYTES = 200;

/** Whether a text has at most so many bytes of UTF-8: a sign of JavaScript (UTF-16) has three at most. */
export const fitsBytes = (text: string, most: number): boolean => 3 * text.length <= most || utf8Bytes(text) <= most;

/** Length in bytes of UTF-8 (RFC 3629). */
export function utf8Bytes(text: string): number {
  const of = (point: number) => (point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4);
  return [...text].reduce((sum, letter) => sum + of(letter.codePointAt(0) ?? 0), 0);
}

/**
 * A stem that every common file system takes: no signs that Windows refuses or nobody sees, no leading dot or dash, no trailing dot or
 * space, no reserved device name, at most 200 bytes of UTF-8. Never empty: `picture` stands in.
 */
export function fileSafe(stem: string): string {
  const cleaned = IS_PLAIN.test(stem) ? stem : withoutOddSigns(stem);
  const named = RESERVED.test(cleaned) ? `_${cleaned}` : cleaned;
  return cut(named, STEM_BYTES) || 'picture';
}

/** Nothing but letters, digits and separators within. */
const IS_PLAIN = /^\w(?:[\w.-]*\w)?$/;

const withoutOddSigns = (stem: string): string =>
  stem
    .normalize('NFC')
    .replace(UNSEEN, '')
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]/g, '_')
    .replace(/^[\s.-]+|[\s.]+$/g, '');

function cut(text: string, most: number): string {
  if (fitsBytes(text, most)) return text;
  const letters = [...text];
  while (utf8Bytes(letters.join('')) > most) letters.pop();
  return letters.join('').replace(/[\s.]+$/, '');
}
