import type { NameRung } from '../preset/schema';
import { writeDate } from './date-pattern';
import { fileSafe } from './file-safe';
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
}

/**
 * The stem of an output's name (without extension), safe for file systems and, when asked, for the web.
 * Parts whose fact is missing are left out, so that a name never says "undefined".
 */
export function outputStem(rung: NameRung, context: NameContext): string {
  const raw = rung.parts.map((part) => writePart(part, context)).join('');
  const safe = fileSafe(rung.webSafe ? webSafe(raw) : raw);
  if (rung.case === 'lower') return safe.toLowerCase();
  if (rung.case === 'upper') return safe.toUpperCase();
  return safe;
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
  }
}

/** A file name without its last extension; a name that is all extension stays whole. */
export function stemOf(fileName: string): string {
  return fileName.replace(/(?<=.)\.[^.]{1,12}$/, '');
}
