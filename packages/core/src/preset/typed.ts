import type { Ratio } from '../size/crop';
import type { Preset } from './schema';

/*
 * Values that are typed where the list offers only the usual ones. Each reads what people write, and gives undefined for what it cannot read.
 */

/** How a value is typed. */
export interface Typed<Value> {
  /** What can be typed, with an example. */
  hint: string;
  /** @param before what stood there, for the parts that are not typed */
  read: (text: string, before: Value) => Value | undefined;
  /** What stands in the field when it is opened. */
  write: (value: Value) => string;
}

type Ceiling = Preset['file']['ceiling'];
type Border = Preset['border'];

/** A number with a decimal point or comma; undefined: none. */
export function numberOf(text: string): number | undefined {
  const value = Number(text.replace(',', '.'));
  return text.trim() === '' || !Number.isFinite(value) ? undefined : value;
}

const rounded = (value: number): string => String(Math.round(value * 1000) / 1000);

/**
 * Width to height as people write it: "4:5", "3 x 2", "1.91:1"; a number alone is to 1.
 * @example typedRatio('8 × 10') // { w: 8, h: 10 }
 */
export function typedRatio(text: string): Ratio | undefined {
  const [, width = '', height = '1'] = /^\s*([\d.,]+)\s*(?:(?:[:x×/]|to)\s*([\d.,]+))?\s*$/i.exec(text) ?? [];
  const [w, h] = [numberOf(width), numberOf(height)];
  return w && h ? { w, h } : undefined;
}

export const TYPED_RATIO: Typed<Preset['size']['ratio']> = {
  hint: 'Width to height, such as 4:5 or 1.91:1',
  read: (text, before) => {
    const ratio = typedRatio(text);
    return ratio && { ...ratio, turn: before?.turn ?? true };
  },
  write: (ratio) => (ratio ? `${ratio.w}:${ratio.h}` : ''),
};

/**
 * Bytes as people write a weight: "350", "350 KB", "1.2 MB"; without a unit KB are meant.
 * @example bytesOf('1,5 MB') // 1500000
 */
export function bytesOf(text: string): number | undefined {
  const [, digits = '', unit = 'kb'] = /^([\d.,]+)\s*(kb|mb|b)?$/i.exec(text.trim()) ?? [];
  const value = numberOf(digits);
  return value === undefined ? undefined : Math.round(value * { b: 1, kb: 1000, mb: 1e6 }[unit.toLowerCase() as 'b' | 'kb' | 'mb']);
}

export const TYPED_CEILING: Typed<Ceiling> = {
  hint: 'A weight such as 350 KB or 1.2 MB',
  read: (text, before) => {
    const bytes = bytesOf(text);
    return bytes === undefined ? undefined : { ...(before ?? { floor: 60, then: 'shrink' }), bytes };
  },
  write: (ceiling) => (ceiling ? `${rounded(ceiling.bytes / 1000)} KB` : ''),
};

const COLOURS: Readonly<Record<string, string>> = { white: '#ffffff', grey: '#808080', 'mid grey': '#808080', black: '#000000' };

/** `#rrggbb`, `#rgb`, or white, mid grey, black. */
export function colourOf(text: string): string | undefined {
  const word = text.trim().toLowerCase();
  const [, short] = /^#?([0-9a-f]{3})$/.exec(word) ?? [];
  const [, long] = /^#?([0-9a-f]{6})$/.exec(word) ?? [];
  if (short) return `#${[...short].map((digit) => digit + digit).join('')}`;
  return long ? `#${long}` : COLOURS[word];
}

export const TYPED_COLOUR: Typed<string> = {
  hint: 'White, mid grey, black, or a colour such as #20364a',
  read: colourOf,
  write: (colour) => colour,
};

export const TYPED_BORDER: Typed<Border> = {
  hint: 'A width in px, perhaps with a colour: 24, 24 px black, 24 #20364a',
  read: (text, before) => {
    const [, digits = '', colour = ''] = /^(\d+)\s*(?:px)?\s*,?\s*(.*)$/i.exec(text.trim()) ?? [];
    const px = numberOf(digits);
    const read = colour ? colourOf(colour) : (before?.colour ?? '#ffffff');
    if (px === undefined || read === undefined) return undefined;
    return px === 0 ? null : { px, colour: read };
  },
  write: (border) => (border ? `${border.px} px ${border.colour}` : ''),
};

export const TYPED_PPI: Typed<number | null> = {
  hint: 'Pixels per inch, such as 254',
  read: (text) => numberOf(text.replace(/\s*ppi$/i, '')),
  write: (ppi) => (ppi === null ? '' : String(ppi)),
};

export const TYPED_MATCH: Typed<number | null> = {
  hint: 'How much fidelity to the picture before compression, in percent: 98.7',
  read: (text) => {
    const value = numberOf(text.replace(/\s*%$/, ''));
    return value === undefined ? undefined : value > 1 ? Math.round(value * 100) / 10_000 : value;
  },
  write: (match) => (match === null ? '' : `${rounded(match * 100)} %`),
};
