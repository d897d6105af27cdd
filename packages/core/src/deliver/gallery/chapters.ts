import type { GalleryPicture } from './pictures';
import type { GalleryChapters } from './wish';

/** Pictures under one heading; null: under none. */
export interface Chapter {
  heading: string | null;
  pictures: GalleryPicture[];
}

/**
 * Puts the pictures under headings, each in the order of the set: chapters stand as their first picture does, those that have neither tag nor
 * day come last.
 * @param language of the days (BCP 47)
 */
export function chaptersOf(pictures: readonly GalleryPicture[], by: GalleryChapters, language: string): Chapter[] {
  if (by === 'none') return [{ heading: null, pictures: [...pictures] }];
  const keyOf =
    by === 'tag' ? ({ tags }: GalleryPicture) => tags[0] ?? null : ({ captured }: GalleryPicture) => captured?.slice(0, 10) ?? null;
  const groups = new Map<string | null, GalleryPicture[]>();
  for (const picture of pictures) {
    const key = keyOf(picture);
    groups.set(key, [...(groups.get(key) ?? []), picture]);
  }
  const keys = [...groups.keys()].filter((key) => key !== null);
  if (by === 'day') keys.sort();
  if (groups.has(null)) keys.push(null as never);
  return keys.map((key: string | null) => ({
    heading: key !== null && by === 'day' ? dayInWords(key, language) : key,
    pictures: groups.get(key)!,
  }));
}

/** @param day ISO 8601, as the camera's clock said */
function dayInWords(day: string, language: string): string {
  const noon = new Date(`${day}T12:00:00Z`);
  // A camera whose clock was never set may say month 0.
  if (Number.isNaN(noon.getTime())) return day;
  return new Intl.DateTimeFormat(language, { dateStyle: 'full', timeZone: 'UTC' }).format(noon);
}
