import { randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { EXAMPLE_FEEDS, Feed } from '@rundle/core';
import * as z from 'zod';
import { shownOf } from './shrink';

/** Something that was sent to a feed, newest first. */
const Post = z.object({ id: z.uuid(), feed: z.string(), sentBytes: z.int(), bytes: z.int(), at: z.string() });
export type Post = z.infer<typeof Post>;

const Kept = z.object({ feeds: z.array(Feed), posts: z.array(Post) });

/** Posts that are kept. */
const MOST = 60;

/** The feeds with their settings, and what was sent to them; kept in a folder. */
export class Wall {
  private last: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly folder: string,
    readonly feeds: Feed[],
    readonly posts: Post[],
  ) {}

  static async open(folder: string): Promise<Wall> {
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const text = await readFile(join(folder, 'feeds.json'), 'utf8').catch(() => null);
    const kept = text === null ? null : Kept.safeParse(JSON.parse(text)).data;
    const feeds = EXAMPLE_FEEDS.map((one) => kept?.feeds.find(({ id }) => id === one.id) ?? one);
    return new Wall(folder, [...feeds], kept?.posts ?? []);
  }

  feed(id: string): Feed | null {
    return this.feeds.find((one) => one.id === id) ?? null;
  }

  async change(feed: Feed): Promise<void> {
    this.feeds.splice(
      this.feeds.findIndex(({ id }) => id === feed.id),
      1,
      feed,
    );
    await this.keep();
  }

  /** @throws NotTaken */
  async take(feed: Feed, sent: Buffer): Promise<Post> {
    const shown = await shownOf(feed, sent);
    const post = { id: randomUUID(), feed: feed.id, sentBytes: sent.length, bytes: shown.length, at: new Date().toISOString() };
    await writeFile(this.pathOf(post.id), shown);
    this.posts.unshift(post);
    for (const old of this.posts.splice(MOST)) await rm(this.pathOf(old.id), { force: true });
    await this.keep();
    return post;
  }

  pathOf(id: string): string {
    return join(this.folder, `${id}.jpg`);
  }

  /** Writes what is to be kept, one after the other, whole or not at all. */
  private keep(): Promise<void> {
    const write = async () => {
      const path = join(this.folder, 'feeds.json');
      await writeFile(`${path}.new`, JSON.stringify({ feeds: this.feeds, posts: this.posts }));
      await rename(`${path}.new`, path);
    };
    const next = this.last.then(write, write);
    this.last = next;
    return next;
  }
}
