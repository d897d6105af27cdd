import { Pipe, type PipeTransform } from '@angular/core';

/** Bytes as people say them: KB = 1,000 bytes, MB with one decimal below 100. */
export function weight(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  if (bytes < 999_500) return `${Math.round(bytes / 1000)} KB`;
  const mega = bytes / 1e6;
  if (mega < 99.95) return `${mega.toFixed(1)} MB`;
  return mega < 999.5 ? `${Math.round(mega)} MB` : `${(mega / 1000).toFixed(2)} GB`;
}

/** Seconds as "12 s", "3 min", "1 h 20 min". */
export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 90 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** "1 picture", "24 pictures". */
export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`;

/** Short names of profiles whose own are long, by what these contain. */
const SHORT_PROFILES: readonly (readonly [RegExp, string])[] = [
  [/adobe ?rgb/i, 'Adobe RGB'],
  [/^srgb/i, 'sRGB'],
  [/display ?p3/i, 'Display P3'],
];

/** What a profile is called where there is little room; the whole name is told on demand. */
export const profileName = (name: string | null): string =>
  name === null ? 'no profile' : (SHORT_PROFILES.find(([known]) => known.test(name))?.[1] ?? name);

@Pipe({ name: 'profileName' })
export class ProfileNamePipe implements PipeTransform {
  transform = profileName;
}

@Pipe({ name: 'weight' })
export class WeightPipe implements PipeTransform {
  transform = weight;
}

@Pipe({ name: 'counted' })
export class CountedPipe implements PipeTransform {
  transform = counted;
}
