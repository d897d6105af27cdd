import { randomUUID } from 'node:crypto';
import { GALLERY_FILES, galleryPage, type NewDelivery, zipFiles } from '@rundle/core';
import { type Database, galleryParts, galleryPictures, openAsMade, outgoingFiles } from '@rundle/store';
import type { Express } from 'express';
import { asMade, type StandingOutput } from '../hand-over/standing-outputs';
import { notFound, requestProblem } from '../http/problem';
import { sendOpened } from '../http/send-opened';
import type { Services } from '../services';
import { findSet } from '../sets/find';
import { onRecord, sendZip, type ZipRow } from './zip';

/** A gallery as it will be: its page, and where the files lie that the page shows. */
export interface GalleryView {
  title: string;
  html: string;
  files: ZipRow[];
  /** Paths of those that the ZIP for visitors has; empty: it is not offered. */
  zipped: string[];
}

/** Makes the page of a gallery from what stands there now; writes nothing. To be asked of a thread. @throws HttpProblem */
export async function viewGallery(
  database: Database,
  setId: string,
  delivery: NewDelivery,
  outputs: readonly StandingOutput[],
): Promise<GalleryView> {
  const { gallery } = delivery;
  if (!gallery) throw requestProblem('no-delivery', 'A gallery has to be chosen.');
  const { title } = await findSet(database, setId);
  const outgoing = outgoingFiles(asMade(outputs), delivery);
  if (outgoing.length === 0) throw requestProblem('nothing-there', 'There are no files that browsers show. Add a preset that makes JPEG.');
  const pictures = await galleryPictures(database, outgoing, new Map());
  const zipped = gallery.downloads === 'all' ? zipFiles(pictures) : [];
  const offered = zipped.length ? { pictures: zipped.length, bytes: zipped.reduce((sum, { bytes }) => sum + bytes, 0) } : null;
  return {
    title,
    html: galleryPage(gallery, pictures, offered),
    files: outgoing.map(({ path, output }) => ({
      path,
      bytes: output.bytes ?? 0,
      outputId: output.id,
      target: output.target,
      folder: output.folder,
      fileName: output.fileName,
      sha256: output.content ?? '',
      mark: output.mark,
    })),
    zipped: zipped.map(({ path }) => path),
  };
}

/** Galleries that can be looked at at the same time: the oldest makes room, since a large page weighs some megabytes. */
const MOST_VIEWS = 4;

/** What a gallery consists of: files of its own, and letters and placeholders as data. */
const POLICY = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:";

/** Shows galleries before they go; until the server ends. */
export class GalleryViews {
  private readonly views = new Map<string, GalleryView>();
  private parts: Promise<Map<string, Buffer | string>> | undefined;

  constructor(private readonly services: Services) {}

  /** @returns the address of its page */
  add(view: GalleryView): string {
    const id = randomUUID();
    this.views.set(id, view);
    for (const oldest of [...this.views.keys()].slice(0, -MOST_VIEWS)) this.views.delete(oldest);
    return `/api/galleries/${id}/${GALLERY_FILES.page}`;
  }

  /** Adds the addresses of what the pages show, which are as deep as the folders of the set. */
  addTo(app: Express): void {
    app.get('/api/galleries/:id/*path', async (request, response) => {
      const { id, path } = request.params;
      const view = this.views.get(id);
      if (!view) throw notFound('gallery');
      const wanted = path.join('/');
      response.setHeader('Cache-Control', 'private, no-cache');
      response.setHeader('Content-Security-Policy', POLICY);
      if (wanted === GALLERY_FILES.page) return void response.type('html').send(view.html);
      const part = (await this.allParts()).get(wanted);
      if (part !== undefined) return void response.type(wanted.split('.').at(-1)!).send(part);
      if (wanted === GALLERY_FILES.zip && view.zipped.length) return this.sendPictures(view, id, { request, response });
      const file = view.files.find((one) => one.path === wanted);
      // What has been made anew since is not what was looked at.
      const opened = file && (await openAsMade(this.services.files.outputs, onRecord(file)));
      if (!opened) throw notFound('file');
      response.type(wanted.split('.').at(-1)!);
      await sendOpened(request, response, opened);
    });
  }

  private async sendPictures(view: GalleryView, id: string, exchange: Parameters<typeof sendZip>[3]): Promise<void> {
    const zipped = new Set(view.zipped);
    const rows = view.files
      .filter(({ path }) => zipped.has(path))
      .map((row) => ({ ...row, path: row.path.slice(row.path.indexOf('/') + 1) }));
    const { outputs } = this.services.files;
    await sendZip(rows, { outputs, made: '' }, { title: view.title, at: new Date(), tag: id }, exchange);
  }

  private allParts(): Promise<Map<string, Buffer | string>> {
    this.parts ??= galleryParts().then(
      (parts) => new Map(parts),
      (error: unknown) => {
        this.parts = undefined; // the next one asks again
        throw error;
      },
    );
    return this.parts;
  }
}
