/** Letters that do not fall apart into a base letter and an accent, with the usual way to write them in ASCII. */
const LETTERS: Record<string, string> = {
  ß: 'ss',
  ẞ: 'SS',
  æ: 'ae',
  Æ: 'AE',
  œ: 'oe',
  Œ: 'OE',
  ø: 'o',
  Ø: 'O',
  å: 'a',
  Å: 'A',
  ł: 'l',
  Ł: 'L',
  đ: 'd',
  Đ: 'D',
  ð: 'd',
  Ð: 'D',
  þ: 'th',
  Þ: 'Th',
  ı: 'i',
  ħ: 'h',
};

/**
 * A name that needs no escaping in a web address: letters A-Z and a-z, digits, `.`, `_` and `-` (the unreserved
 * characters of RFC 3986 without `~`). Spaces become `-`, accents fall off, every other sign goes. Separators stand between
 * two other signs, one at a time.
 */
export function webSafe(name: string): string {
  if (IS_SAFE.test(name)) return name;
  return name
    .replace(/[^\x20-\x7e]/gu, (letter) => LETTERS[letter] ?? letter)
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/\s+/gu, '-')
    .replace(/[^A-Za-z0-9._-]/g, '')
    .replace(/[-._]{2,}/g, oneOf)
    .replace(/^[-._]+|[-._]+$/g, '');
}

/** Most names of cameras and editors: a sheet of thousands asks for each of them at every change. */
const IS_SAFE = /^[A-Za-z0-9]+(?:[-._][A-Za-z0-9]+)*$/;

/** Of several separators in a row the one that says most: `_` was typed by hand, `-` may have been a space. */
const oneOf = (separators: string): string => (separators.includes('_') ? '_' : separators.includes('.') ? '.' : '-');
