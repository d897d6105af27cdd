import { gallerySnippet, type NewDelivery } from '@rundle/core';
import { type Database, galleryPictures, newestOutputs, outgoingFiles } from '@rundle/store';
import { requestProblem } from '../http/problem';
import { findSet } from '../sets/find';

interface SnippetWish {
  setId: string;
  delivery: NewDelivery;
  base: string;
}

/** The HTML of a gallery for a page of one's own. @throws HttpProblem */
export async function snippetOf(database: Database, { setId, delivery, base }: SnippetWish): Promise<string> {
  if (!delivery.gallery) throw requestProblem('no-delivery', 'A gallery has to be chosen.');
  const set = await findSet(database, setId);
  const outgoing = outgoingFiles(await newestOutputs(database, set.id), delivery);
  if (outgoing.length === 0) throw requestProblem('nothing-there', 'There are no files that browsers show. Add a preset that makes JPEG.');
  const folder = base.trim().replace(/(?<=[^/])$/, '/');
  return gallerySnippet(delivery.gallery, await galleryPictures(database, outgoing, new Map()), folder);
}
