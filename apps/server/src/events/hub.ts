import { randomUUID } from 'node:crypto';
import { BEAT_MS, type SetEvent, type StreamEvent, type Topic } from '@rundle/core';
import { type Database, isDatabaseAway, listen, masterView, type Notice, outputView, runViews } from '@rundle/store';
import type { Response } from 'express';
import type { Logger } from 'pino';
import { HttpProblem } from '../http/problem';
import { inSet } from '../masters/queue-reading';
import { OPEN_STATES } from '../runs/open-runs';
import { setDetail } from '../sets/summaries';

/** Events of a set are at least so far apart, in ms: a run of 48 outputs must not redraw a page 48 times. */
const EVENT_INTERVAL_MS = 80;

/** And of a shared list, which whoever shows it loads again. */
const TOPIC_INTERVAL_MS = 300;

/** And how far a run is. */
const PROGRESS_INTERVAL_MS = 700;

interface Pending {
  /** Sets whose order, or whose own fields, have changed. */
  order: Set<string>;
  set: Set<string>;
  weighed: Set<string>;
  masters: Set<string>;
  outputs: Set<string>;
  runs: Set<string>;
}

/** The pending list that a notice about a set belongs to. */
const KIND: Record<Exclude<Notice['about'], 'topic'>, keyof Pending> = {
  masters: 'masters',
  order: 'order',
  weighed: 'weighed',
  set: 'set',
  outputs: 'outputs',
  run: 'runs',
  'run-stopped': 'runs',
};

/** One connected browser: a single stream for all of its pages. */
interface Stream {
  response: Response;
  setIds: ReadonlySet<string>;
}

/** Passes changes in the database on to the browsers that show them, as server-sent events. */
export class EventHub {
  private readonly streams = new Map<string, Stream>();
  private readonly pending = new Map<string, Pending>();
  /**
   * The last send for a set, and when it began, in ms. The first after a pause goes out at once; sends never overlap, since the one that
   * queried first may hold older data.
   */
  private readonly last = new Map<string, { sending: Promise<void>; at: number }>();
  /** Topics that are about to be told, and when each was told last, in ms. */
  private readonly topics = new Set<Topic>();
  private readonly lastTopics = new Map<Topic, number>();
  private readonly progress = new Set<string>();
  private readonly stopListening: () => Promise<void>;

  constructor(
    private readonly database: Database,
    databaseUrl: string,
    private readonly log: Logger,
  ) {
    this.stopListening = listen(
      databaseUrl,
      (notice) => this.take(notice),
      () => this.closeStreams(),
      (error) => log.warn({ err: error }, 'listening for changes'),
    );
  }

  /** Adds a stream. Its browser opens it again by itself when it breaks, and then asks for the whole state. */
  add(response: Response): void {
    const streamId = randomUUID();
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache', 'X-Accel-Buffering': 'no' });
    response.write('retry: 1000\n\n');
    this.streams.set(streamId, { response, setIds: new Set() });
    tell(response, { about: 'stream', streamId });
    const beat = setInterval(() => tell(response, { about: 'beat' }), BEAT_MS);
    response.once('close', () => {
      clearInterval(beat);
      this.follow(streamId, []);
      this.streams.delete(streamId);
    });
  }

  /**
   * Says which sets a stream follows from now on.
   * @returns false when there is no such stream (any more)
   */
  follow(streamId: string, setIds: readonly string[]): boolean {
    const stream = this.streams.get(streamId);
    if (!stream) return false;
    const before = stream.setIds;
    stream.setIds = new Set(setIds);
    for (const setId of before) if (!this.isFollowed(setId)) this.last.delete(setId);
    return true;
  }

  /** How many browsers are told. */
  get size(): number {
    return this.streams.size;
  }

  /** Ends all streams, so that the server can close. */
  async close(): Promise<void> {
    this.closeStreams();
    await this.stopListening();
  }

  private isFollowed(setId: string): boolean {
    return [...this.streams.values()].some(({ setIds }) => setIds.has(setId));
  }

  /** After a gap in the listening a page may have missed something: it connects anew and loads the state. */
  private closeStreams(): void {
    for (const { response } of this.streams.values()) response.end();
  }

  private take(notice: Notice): void {
    if (this.streams.size === 0) return;
    if (notice.about === 'topic') return this.takeTopic(notice.topic);
    const { about, setId, ids } = notice;
    if (about === 'set' || about === 'masters') this.takeTopic('sets');
    if (about === 'outputs') this.takeProgress(setId);
    if (!this.isFollowed(setId) && KIND[about] !== 'runs') return;
    this.queue(setId, KIND[about], ids);
  }

  private queue(setId: string, kind: keyof Pending, ids: readonly string[]): void {
    if (ids.length === 0) return;
    let pending = this.pending.get(setId);
    if (!pending) {
      pending = { order: new Set(), set: new Set(), weighed: new Set(), masters: new Set(), outputs: new Set(), runs: new Set() };
      this.pending.set(setId, pending);
      setTimeout(() => this.sendNext(setId), Math.max(0, (this.last.get(setId)?.at ?? 0) + EVENT_INTERVAL_MS - Date.now()));
    }
    for (const id of ids) pending[kind].add(id);
  }

  /** Whoever shows the list loads it again: the first change after a pause is told at once, more of them once in a while. */
  private takeTopic(topic: Topic): void {
    if (this.topics.has(topic)) return;
    this.topics.add(topic);
    setTimeout(
      () => {
        this.topics.delete(topic);
        this.lastTopics.set(topic, Date.now());
        for (const { response } of this.streams.values()) tell(response, { about: 'topic', topic });
      },
      Math.max(0, (this.lastTopics.get(topic) ?? 0) + TOPIC_INTERVAL_MS - Date.now()),
    );
  }

  /** How far a run is, is told to every page, also to those that show another set. */
  private takeProgress(setId: string): void {
    if (this.progress.has(setId)) return;
    this.progress.add(setId);
    setTimeout(() => void this.sendProgress(setId), PROGRESS_INTERVAL_MS);
  }

  /** In its turn behind what is told of the set already: no run goes on again after its end. */
  private async sendProgress(setId: string): Promise<void> {
    this.progress.delete(setId);
    if (this.streams.size === 0) return;
    try {
      const rows = await this.database.runs.findAll({ where: { setId, state: OPEN_STATES }, attributes: ['id'] });
      this.queue(
        setId,
        'runs',
        rows.map(({ id }) => id),
      );
    } catch (error) {
      if (!isDatabaseAway(error)) this.log.error({ err: error, setId }, 'how far a run is could not be told');
    }
  }

  private sendNext(setId: string): void {
    const sending = (this.last.get(setId)?.sending ?? Promise.resolve()).then(() => this.send(setId));
    this.last.set(setId, { sending, at: Date.now() });
    // Of a set that nobody looks at, only what is under way has to be known.
    void sending.then(() => {
      if (!this.isFollowed(setId) && this.last.get(setId)?.sending === sending) this.last.delete(setId);
    });
  }

  private async send(setId: string): Promise<void> {
    const pending = this.pending.get(setId);
    this.pending.delete(setId);
    if (!pending) return;
    try {
      for (const event of await this.load(pending)) this.write(setId, event);
    } catch (error) {
      // With the database away, pages load anew when it is back. A fault of ours would come again and again: it is told and passed over.
      if (isDatabaseAway(error)) this.closeStreams();
      else if (!(error instanceof HttpProblem)) this.log.error({ err: error, setId }, 'changes of a set could not be told');
    }
  }

  private async load({ order, set, weighed, masters, outputs, runs }: Pending): Promise<SetEvent[]> {
    const where = (ids: Set<string>) => ({ where: { id: [...ids] } });
    const events: SetEvent[] = [];
    for (const setId of set) events.push({ type: 'set', set: await setDetail(this.database, setId) });
    if (masters.size) {
      // Masters removed and restored meanwhile are sent as they are now.
      const there = await this.database.masters.findAll({ where: { id: [...masters], removedAt: null } });
      for (const { id } of there) masters.delete(id);
      if (there.length) events.push({ type: 'masters', masters: there.map(masterView) });
      if (masters.size) events.push({ type: 'masters-removed', masterIds: [...masters] });
    }
    // After the masters, so that it puts new ones in their places, too.
    for (const setId of order) {
      const rows = await this.database.masters.findAll({ where: inSet(setId), order: [['position', 'ASC']], attributes: ['id'] });
      events.push({ type: 'order', masterIds: rows.map(({ id }) => id) });
    }
    if (weighed.size) events.push({ type: 'weighed' });
    if (outputs.size) events.push({ type: 'outputs', outputs: (await this.database.outputs.findAll(where(outputs))).map(outputView) });
    if (runs.size) {
      const rows = await this.database.runs.findAll(where(runs));
      for (const run of await runViews(this.database, rows)) events.push({ type: 'run', run });
      // What a run has made anew need not be looked at again: the set says so.
      for (const { setId } of rows.filter(({ finishedAt }) => finishedAt))
        events.push({ type: 'set', set: await setDetail(this.database, setId) });
    }
    return events;
  }

  /** Only streams that follow the set get its events; runs go to all. */
  private write(setId: string, event: SetEvent): void {
    for (const { response, setIds } of this.streams.values()) {
      if (setIds.has(setId)) tell(response, { about: 'set', setId, event });
      if (event.type === 'run') tell(response, { about: 'run', run: event.run });
    }
  }
}

/** Bytes that may wait for a browser to read them. One that reads no more is let go: it connects anew, and asks for the whole state. */
const MOST_UNREAD = 4_000_000;

function tell(response: Response, event: StreamEvent): void {
  if (response.writableLength > MOST_UNREAD) return void response.destroy();
  response.write(`data: ${JSON.stringify(event)}\n\n`);
}
