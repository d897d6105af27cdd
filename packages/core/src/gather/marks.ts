import * as z from 'zod';
import { line } from '../preset/fields';

/** A word of the photographer's own. */
export const Tag = line(60, 1);

/** Whether a picture was picked, left out of everything that comes out, or neither. */
export const Choice = z.enum(['pick', 'out']).nullable();
export type Choice = z.infer<typeof Choice>;

/** What a photographer has decided about a picture. Stars come from the file's own rating when it is brought in. */
export const Marks = z.object({ stars: z.int().min(0).max(5), choice: Choice, tags: z.array(Tag).max(50) });
export type Marks = z.infer<typeof Marks>;

/** One press of a key or a button, on however many pictures. */
export type MarkChange = { kind: 'stars'; stars: number } | { kind: 'choice'; choice: Choice } | { kind: 'tag'; tag: string; on: boolean };

/** The marks after a change; the same object when nothing changes. */
export function marked(marks: Marks, change: MarkChange): Marks {
  switch (change.kind) {
    case 'stars':
      return marks.stars === change.stars ? marks : { ...marks, stars: change.stars };
    case 'choice':
      return marks.choice === change.choice ? marks : { ...marks, choice: change.choice };
    case 'tag': {
      const has = marks.tags.some((tag) => sameTag(tag, change.tag));
      if (has === change.on) return marks;
      return { ...marks, tags: change.on ? [...marks.tags, change.tag] : marks.tags.filter((tag) => !sameTag(tag, change.tag)) };
    }
  }
}

/** Tags are told apart by their letters, not by their case. */
export const sameTag = (a: string, b: string): boolean => a.toLocaleLowerCase('en') === b.toLocaleLowerCase('en');
