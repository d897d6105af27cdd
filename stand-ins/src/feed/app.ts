import { Feed, feedInWords } from '@rundle/core';
import express, { type ErrorRequestHandler, type Express } from 'express';
import helmet from 'helmet';
import * as z from 'zod';
import { ownMachineOnly } from '../own-machine';
import { NotTaken } from './shrink';
import type { Wall } from './wall';

/** The heaviest file that a feed takes. */
const HEAVIEST = '60mb';

/** A stand-in for the feeds that pictures end up in: takes uploads, and shows them as such places do. @param page folder of its own page */
export function feedApp(wall: Wall, page: string): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(helmet({ strictTransportSecurity: false, contentSecurityPolicy: { directives: { 'upgrade-insecure-requests': null } } }));
  app.use(ownMachineOnly('The stand-in feed'));
  app.get('/feeds', (_request, response) => void response.json(wall.feeds));
  app.get('/wall', (_request, response) => {
    response.json({ feeds: wall.feeds.map((feed) => ({ ...feed, words: feedInWords(feed) })), posts: wall.posts });
  });
  app.put('/feeds/:id', express.json(), async (request, response) => {
    const feed = Feed.safeParse(request.body);
    if (!feed.success) return void response.status(422).json({ message: z.prettifyError(feed.error) });
    if (!wall.feed(feed.data.id) || feed.data.id !== request.params['id'])
      return void response.status(404).json({ message: 'No such feed.' });
    await wall.change(feed.data);
    response.status(204).end();
  });
  app.post('/feeds/:id/pictures', express.raw({ type: () => true, limit: HEAVIEST }), async (request, response) => {
    const feed = wall.feed(request.params.id);
    if (!feed) return void response.status(404).json({ message: 'No such feed.' });
    if (!Buffer.isBuffer(request.body) || request.body.length === 0)
      return void response.status(422).json({ message: 'The file is empty.' });
    const { id } = await wall.take(feed, request.body);
    response.status(201).json({ picture: `/pictures/${id}` });
  });
  app.get('/pictures/:id', (request, response, next) => {
    const post = wall.posts.find(({ id }) => id === request.params.id);
    if (!post) return next();
    response.sendFile(wall.pathOf(post.id));
  });
  app.use(express.static(page));
  app.use((_request, response) => void response.status(404).json({ message: 'There is no such thing here.' }));
  app.use(sayWhy);
  return app;
}

const sayWhy: ErrorRequestHandler = (error: unknown, _request, response, next) => {
  if (response.headersSent) return next(error);
  if (error instanceof NotTaken) return void response.status(422).json({ message: error.message });
  const status = error instanceof Error && 'status' in error ? Number(error.status) : 500;
  const message = status === 413 ? `It is heavier than ${HEAVIEST.replace('mb', ' MB')}.` : 'The stand-in feed could not take it.';
  response.status(status).json({ message });
};
