import type { NameRung } from '../preset/schema';
import { writeDate } from './date-pattern';
import { fileSafe, fitsBytes, STEM_BYTES, utf8Bytes } from './file-safe';
import type { NamePart } from './parts';
import { webSafe } from './web-safe';

/** What a name can be built from. Sizes in px. */
export interface NameContext {
  /** File name of the master, with its extension. */
  fileName: string;
  set: string;
  preset: string;
  /** Place of the master in the set, from 0; drives the counter. */
  index: number;
  width: number;
  height: number;
  /** `yyyy-MM-ddTHH:mm:ss`, or null when the file does not say. */
  captured: string | null;
  creator: string | null;
  /** What tells the files of one picture apart; null: there is only one. */
  part: NamedPart | null;
}

/** One of several files of a picture, as names tell it. */
export type NamedPart =
  | { kind: 'size'; label: string }
  /** From 1. `digits`: how many the largest number has. */
  | { kind: 'panel'; row: number; column: number; digits: { row: number; column: number } };

/**
 * The stem of an output's name (without extension), safe for file systems and, when asked, for the web. Where it would be too
 * long, the longest of original name, set, preset and creator is shortened.
 * Parts whose fact is missing are left out, so that a name never says "undefined".
 * @example with the default parts and "Boat Ærø.jpg" at 2048 px: "Boat-AEro_2048"
 */
export function outputStem(rung: NameRung, context: NameContext): string {
  const written = rung.parts.map((part) => ({ text: writePart(part, context), yields: YIELDS.has(part.part) }));
  const raw = shortened(written, rung.webSafe ? webSafe : (name) => name);
  const safe = fileSafe(raw);
  if (rung.case === 'lower') return safe.toLowerCase();
  if (rung.case === 'upper') return safe.toUpperCase();
  return safe;
}

/** Parts that may be shortened: what tells one output from another, and what was typed for this very name, stays whole. */
const YIELDS: ReadonlySet<NamePart['part']> = new Set(['original', 'set', 'preset', 'creator']);

interface Written {
  text: string;
  yields: boolean;
}

/** Parts as one name that is short enough for every disk: letters are taken from the end of the longest part that yields. */
function shortened(parts: readonly Written[], clean: (name: string) => string): string {
  const whole = clean(parts.map(({ text }) => text).join(''));
  if (fitsBytes(whole, STEM_BYTES)) return whole;
  const pieces = parts.map(({ text, yields }) => ({ letters: [...text], yields }));
  for (;;) {
    const name = clean(pieces.map(({ letters }) => letters.join('')).join(''));
    const over = utf8Bytes(name) - STEM_BYTES;
    const longest = pieces.filter(({ yields }) => yields).sort((a, b) => b.letters.length - a.letters.length)[0];
    if (over <= 0 || !longest?.letters.length) return name;
    longest.letters.length -= Math.min(longest.letters.length, Math.max(1, Math.floor(over / 8)));
  }
}

function writePart(part: NamePart, context: NameContext): string {
  switch (part.part) {
    case 'original':
      return stemOf(context.fileName);
    case 'text':
      return part.text;
    case 'counter':
      return String(part.start + part.step * context.index).padStart(part.digits, '0');
    case 'date':
      return (context.captured && writeDate(part.pattern, context.captured)) ?? '';
    case 'set':
      return context.set;
    case 'preset':
      return context.preset;
    case 'long-edge':
      return String(Math.max(context.width, context.height));
    case 'width':
      return String(context.width);
    case 'height':
      return String(context.height);
    case 'creator':
      return context.creator ?? '';
    case 'size':
      return context.part?.kind === 'size' ? context.part.label : '';
    case 'row':
    case 'column':
      return context.part?.kind === 'panel' ? String(context.part[part.part]).padStart(context.part.digits[part.part], '0') : '';
  }
}

/** A file name without its last extension; a name that is all extension stays whole. */
export function stemOf(fileName: string): string {
  return fileName.replace(/(?<=.)\.[^.]{1,12}$/, '');
}

/** What {@link stemOf} takes off, without its dot; empty where there is none. */
export const extensionOf = (fileName: string): string => fileName.slice(stemOf(fileName).length + 1);
