import { figure } from './preset/fields';

/** Bytes as people say them: KB = 1,000 bytes, MB with one decimal below 100. */
export function weight(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  if (bytes < 999_500) return `${Math.round(bytes / 1000)} KB`;
  const mega = bytes / 1e6;
  if (mega < 99.95) return `${mega.toFixed(1)} MB`;
  return mega < 999.5 ? `${Math.round(mega)} MB` : `${(mega / 1000).toFixed(2)} GB`;
}

/** "1 picture", "24 pictures". */
export const counted = (count: number, one: string, many = `${one}s`): string => `${figure(count)} ${count === 1 ? one : many}`;
