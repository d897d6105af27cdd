import { createHash } from 'node:crypto';
import { ENGINE, recipeText, type SharedRecipe } from '@rundle/core';

/**
 * A recipe as it is written down with an output, in hexadecimal. Watermarks are never changed, only replaced, so that their id stands for them.
 * @param sha256 of the master
 */
export const recipeHash = (shared: SharedRecipe, sha256: string, engine = ENGINE): string =>
  hashOfRecipe(recipeText({ ...shared, master: sha256, engine }));

/** The same of its text. */
export const hashOfRecipe = (text: string): string => createHash('sha256').update(text).digest('hex');
