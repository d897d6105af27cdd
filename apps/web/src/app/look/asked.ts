import type { PixelRung, Preset, SampleOverlay, SampleView } from '@rundle/core';

/** What decides about a file. */
export interface FileAsked {
  masterId: string;
  preset: Preset;
  /** What was decided about the picture itself, such as its focus: another decision makes another file. */
  decided: string;
}

/** What a picture on the screen was asked for. */
export interface PictureAsked extends FileAsked {
  upTo: PixelRung;
  view: SampleView;
  overlay?: SampleOverlay | null;
  /** Whether all of the master is shown, though the preset cuts it. */
  whole?: boolean;
}

/** Something shown, in a form that can be held against what is wanted. */
export interface Asked {
  /** The file or picture. */
  what: string;
  /** The part of it. */
  where: string;
}

/**
 * How what is shown stands to what is wanted.
 * - `wanted`: it is what is asked for, and may be called so.
 * - `elsewhere`: another part of the same picture. It may be moved to where it belongs; nothing is said about the part that is wanted.
 * - `other`: another picture, or nothing. It is dimmed, "being made", and cannot be judged, adopted or counted.
 */
export type Match = 'wanted' | 'elsewhere' | 'other';

/** The one rule for the bench, the test strip, the close look, the curves and the feed: what is shown counts only as what it was asked for. */
export function matchOf(shown: Asked | null | undefined, wanted: Asked | null | undefined): Match {
  if (!shown || !wanted || shown.what !== wanted.what) return 'other';
  return shown.where === wanted.where ? 'wanted' : 'elsewhere';
}

/** Signals of plain data that change only when the data do. */
export const SAME_DATA = { equal: (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b) };

/** How the master itself is asked for, as large as the file and with its pixels in the file's places: neither sharpened nor marked. */
export function unfinished(preset: Preset): Pick<PictureAsked, 'preset' | 'upTo'> {
  const { panels, canvas } = preset;
  return panels || canvas ? { preset: { ...preset, sharpen: null, mark: null }, upTo: 'print' } : { preset, upTo: 'colour' };
}

/** Names what decides about a file, and nothing else: a new title makes no other file. */
export function fileKey({ masterId, preset, decided }: FileAsked): string {
  const { size, tone, colour, sharpen, mark, border, panels, canvas, file, metadata } = preset;
  return JSON.stringify([masterId, decided, size, tone, colour, sharpen, mark, border, panels, canvas, file, metadata]);
}

/** A part can be moved into its place while the next is on its way; a whole picture that was reduced cannot. */
export function askedFor({ upTo, view, overlay = null, whole = false, ...file }: PictureAsked): Asked {
  const what = JSON.stringify([fileKey(file), upTo, overlay, whole, view.kind === 'part' ? 'part' : view]);
  return { what, where: view.kind === 'part' ? JSON.stringify(view) : '' };
}
