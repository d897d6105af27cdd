import type { SetEvent } from '@rundle/core';
import { type Database, isDatabaseAway, listen, masterView, type Notice, outputView, runView } from '@rundle/store';
import type { Response } from 'express';
import type { Logger } from 'pino';
import { HttpProblem } from '../http/problem';
import { inSet } from '../masters/marks';
import { setDetail } from '../sets/summaries';

/** Events of a set are at least so far apart, in ms: a run of 48 outputs must not redraw a page 48 times. */
const EVENT_INTERVAL_MS = 80;

interface Pending {
  /** Sets whose order, or whose own fields, have changed. */
  order: Set<string>;
  set: Set<string>;
  masters: Set<string>;
  outputs: Set<string>;
  runs: Set<string>;
}

/** Under which kind a notice waits. */
const KIND: Record<Notice['about'], keyof Pending> = {
  masters: 'masters',
  order: 'order',
  set: 'set',
  outputs: 'outputs',
  run: 'runs',
  'run-cancelled': 'runs',
};

/** Passes changes in the database on to the pages that show a set, as server-sent events. */
export class EventHub {
  private readonly pages = new Map<string, Set<Response>>();
  private readonly pending = new Map<string, Pending>();
  /**
   * The last sending of a set, and when it was begun, in ms. The first after a pause goes out at once; none overtakes another, since
   * what was looked up first may be older.
   */
  private readonly last = new Map<string, { sending: Promise<void>; at: number }>();
  private readonly stopListening: () => Promise<void>;

  constructor(
    private readonly database: Database,
    databaseUrl: string,
    private readonly log: Logger,
  ) {
    this.stopListening = listen(
      databaseUrl,
      (notice) => this.take(notice),
      () => this.closePages(),
      (error) => log.warn({ err: error }, 'listening for changes'),
    );
  }

  /** Adds a page. Its browser opens the stream again by itself when it breaks, and then asks for the whole state. */
  add(setId: string, response: Response): void {
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache', 'X-Accel-Buffering': 'no' });
    response.write('retry: 1000\n\n');
    const pages = this.pages.get(setId) ?? new Set();
    this.pages.set(setId, pages.add(response));
    const beat = setInterval(() => response.write(': beat\n\n'), 20_000);
    response.once('close', () => {
      clearInterval(beat);
      pages.delete(response);
      if (pages.size === 0) this.forget(setId);
    });
  }

  private forget(setId: string): void {
    this.pages.delete(setId);
    this.last.delete(setId);
  }

  /** Ends all streams, so that the server can close. */
  async close(): Promise<void> {
    this.closePages();
    await this.stopListening();
  }

  /** After a gap in the listening a page may have missed something: it connects anew and loads the state. */
  private closePages(): void {
    for (const pages of this.pages.values()) for (const page of pages) page.end();
  }

  private take({ about, setId, ids }: Notice): void {
    if (!this.pages.get(setId)?.size) return;
    let pending = this.pending.get(setId);
    if (!pending) {
      pending = { order: new Set(), set: new Set(), masters: new Set(), outputs: new Set(), runs: new Set() };
      this.pending.set(setId, pending);
      setTimeout(() => this.sendNext(setId), Math.max(0, (this.last.get(setId)?.at ?? 0) + EVENT_INTERVAL_MS - Date.now()));
    }
    for (const id of ids) pending[KIND[about]].add(id);
  }

  private sendNext(setId: string): void {
    const sending = (this.last.get(setId)?.sending ?? Promise.resolve()).then(() => this.send(setId));
    this.last.set(setId, { sending, at: Date.now() });
  }

  private async send(setId: string): Promise<void> {
    const pending = this.pending.get(setId);
    this.pending.delete(setId);
    if (!pending) return;
    try {
      for (const event of await this.load(pending)) this.write(setId, event);
    } catch (error) {
      // With the database away, pages load anew when it is back. A fault of ours would come again and again: it is told and passed over.
      if (isDatabaseAway(error)) this.closePages();
      else if (!(error instanceof HttpProblem)) this.log.error({ err: error, setId }, 'changes of a set could not be told');
    }
  }

  private async load({ order, set, masters, outputs, runs }: Pending): Promise<SetEvent[]> {
    const where = (ids: Set<string>) => ({ where: { id: [...ids] } });
    const events: SetEvent[] = [];
    for (const setId of set) events.push({ type: 'set', set: await setDetail(this.database, setId) });
    if (masters.size) {
      // What has been taken out and put back meanwhile is as it is now.
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
    if (outputs.size) events.push({ type: 'outputs', outputs: (await this.database.outputs.findAll(where(outputs))).map(outputView) });
    if (runs.size) for (const run of await this.database.runs.findAll(where(runs))) events.push({ type: 'run', run: runView(run) });
    return events;
  }

  private write(setId: string, event: SetEvent): void {
    for (const page of this.pages.get(setId) ?? []) page.write(`data: ${JSON.stringify(event)}\n\n`);
  }
}
