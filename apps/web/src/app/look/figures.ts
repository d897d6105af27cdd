import { Pipe, type PipeTransform } from '@angular/core';
import { counted, weight } from '@rundle/core';

export { counted, weight };

/** Seconds as "12 s", "3 min", "1 h 20 min". */
export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 90 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

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
