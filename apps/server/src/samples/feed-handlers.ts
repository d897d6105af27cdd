import { createHash } from 'node:crypto';
import { readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { ENCODED_TYPE_NAMES, Feed, type FeedSide, FeedTrip, FILE_TYPES, type FeedsView, jsonOrNull, keyOf } from '@rundle/core';
import { openOnce } from '@rundle/place';
import type { Config } from '@rundle/store';
import * as z from 'zod';
import type { Handlers } from '../http/handlers';
import { notFound, requestProblem } from '../http/problem';
import { sendOpened } from '../http/send-opened';
import type { Services } from '../services';
import { goneWith, NO_LOOK, type Task, tasksOf } from './tasks';

/** Trips whose pictures are kept; they can be made again. */
const KEPT = 60;
/** How long the stand-in may take to tell its feeds, ms. */
const PATIENCE = 3000;

export function feedHandlers(services: Services) {
  const { config, samplers } = services;
  const withTask = tasksOf(services);
  const trips = join(config.data, 'cache/feed-trips');

  return {
    listFeeds: (): Promise<FeedsView> => feedsOf(config),

    sendThroughFeed: async ({ masterId, body, response }) => {
      const { feeds, address, why } = await feedsOf(config);
      const feed = feeds.find(({ id }) => id === body.feed);
      if (!feed || !address) throw requestProblem('no-feed', why ?? `There is no feed “${body.feed}”.`);
      if (body.preset.file.type === 'original')
        throw requestProblem('no-sample', 'An untouched copy is the master itself, which is not sent to a feed.');
      if (body.preset.panels || body.preset.canvas)
        throw requestProblem('no-sample', 'Panels and canvas edges are for print: such files are not sent to a feed.');
      const { signal } = goneWith(response);
      return withTask(masterId, { preset: body.preset, decided: body.decided }, (task) =>
        goThrough(task, body.preset.mark?.watermark ?? null, feed, address, signal),
      );
    },

    getFeedPicture: async ({ tripId, query, request, response }) => {
      const [name, mediaType] = await nameOf(join(trips, tripId), query.side);
      const found = await openOnce(join(trips, tripId, name)).catch(() => null);
      if (!found) throw notFound('trip');
      // A trip of other settings has another id.
      response.setHeader('Cache-Control', 'private, max-age=3600');
      response.type(mediaType);
      await sendOpened(request, response, found.opened);
    },
  } satisfies Partial<Handlers>;

  /** A trip of the same file through the same feed is made once. */
  async function goThrough(task: Task, watermark: string | null, feed: Feed, address: string, signal: AbortSignal): Promise<FeedTrip> {
    const { content, facts, making, studio } = task;
    const tripId = idOf(JSON.stringify([keyOf('bytes', { content, facts, preset: making.preset, studio, watermark }), feed]));
    const folder = join(trips, tripId);
    const kept = await tripIn(folder);
    if (kept) return kept;
    const door = { address: new URL(`feeds/${feed.id}`, address).href, title: feed.title };
    const trip = await samplers.throughFeed({ ...task, ...NO_LOOK }, { door, tripId, folder }, signal);
    await forgetOldest(trips);
    return trip;
  }
}

/** The feeds as the stand-in tells them now. */
async function feedsOf({ standIns, data }: Config): Promise<FeedsView> {
  const none = (why: string): FeedsView => ({ address: null, why, feeds: [] });
  if (!standIns) return none('The stand-in feed is off (RUNDLE_STAND_INS=off). Start Rundle without that to send pictures through it.');
  try {
    const url = await readFile(join(data, 'stand-ins/feed/address'), 'utf8');
    const answer = await fetch(new URL('feeds', url), { signal: AbortSignal.timeout(PATIENCE) });
    return { address: new URL('/', url).href, why: null, feeds: z.array(Feed).parse(await answer.json()) };
  } catch {
    return none('The stand-in feed does not answer just now. It is started again by itself when it has ended; try again in a moment.');
  }
}

/** The same id for the same trip, in the form of a UUID (RFC 9562, 5.8). */
function idOf(trip: string): string {
  const hex = createHash('sha256').update(trip).digest('hex');
  return [hex.slice(0, 8), hex.slice(8, 12), `8${hex.slice(13, 16)}`, `8${hex.slice(17, 20)}`, hex.slice(20, 32)].join('-');
}

async function tripIn(folder: string): Promise<FeedTrip | null> {
  const text = await readFile(join(folder, 'trip.json'), 'utf8').catch(() => '');
  return FeedTrip.safeParse(jsonOrNull(text)).data ?? null; // one of an earlier release may not say all that is wanted by now
}

/** What the picture of a side is called, and its media type. */
async function nameOf(folder: string, side: FeedSide): Promise<[string, string]> {
  const names = await readdir(folder).catch(() => []);
  const name = names.find((one) => one.startsWith(`${side}.`));
  const type = ENCODED_TYPE_NAMES.find((one) => name?.endsWith(`.${FILE_TYPES[one].extension}`));
  if (!name || !type) throw notFound('trip');
  return [name, FILE_TYPES[type].mediaType];
}

async function forgetOldest(trips: string): Promise<void> {
  const found = await Promise.all(
    (await readdir(trips)).map(async (name) => ({ name, at: (await stat(join(trips, name)).catch(() => null))?.mtimeMs ?? 0 })),
  );
  const old = found.sort((a, b) => b.at - a.at).slice(KEPT);
  for (const { name } of old) await rm(join(trips, name), { recursive: true, force: true });
}
