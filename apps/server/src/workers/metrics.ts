import { createHash, timingSafeEqual } from 'node:crypto';
import type { WorkersView, WorkKind } from '@rundle/core';
import type { Express } from 'express';
import { collectDefaultMetrics, Counter, Gauge, Registry } from 'prom-client';
import { QueryTypes } from 'sequelize';
import { requestProblem } from '../http/problem';
import type { Services } from '../services';
import { KINDS, workersView } from './workers-view';

/**
 * Adds `/metrics`, in the text format of Prometheus (its documentation, "Exposition formats"), for whoever knows the token; without a token there is none.
 */
export function addMetrics(app: Express, services: Pick<Services, 'config' | 'database' | 'hub'>): void {
  const { metricsToken } = services.config;
  if (!metricsToken) return;
  const metrics = new Metrics(services);
  app.get('/metrics', async (request, response) => {
    const [, token = ''] = /^Bearer (.+)$/.exec(request.headers.authorization ?? '') ?? [];
    if (!isSame(token, metricsToken)) throw requestProblem('no-token', 'Send the token of RUNDLE_METRICS_TOKEN: Authorization: Bearer …');
    const text = await metrics.text();
    response.type(metrics.contentType).send(text);
  });
}

/** In a time that says nothing of either. */
function isSame(one: string, other: string): boolean {
  const [a, b] = [one, other].map((text) => createHash('sha256').update(text).digest());
  return timingSafeEqual(a!, b!);
}

/** What this server and all workers do and have done, asked for anew each time. */
class Metrics {
  private readonly registry = new Registry();
  private readonly waiting = this.gauge('work_waiting', 'Pieces of work that nobody has taken yet', ['kind']);
  private readonly oldest = this.gauge('work_waiting_oldest_seconds', 'How long the oldest of them has been written down', ['kind']);
  private readonly workers = this.gauge('workers', 'Programs that read and make pictures', ['state']);
  private readonly memory = this.gauge('worker_memory_bytes', 'Resident memory of workers, as they said last', ['host']);
  private readonly streams = this.gauge('event_streams', 'Browsers that are told what changes');
  private readonly work = this.counter('work_done_total', 'Pieces of work that were carried out', ['kind']);
  private readonly made = this.counter('files_made_total', 'Files that were made and checked');
  private readonly failed = this.counter('files_failed_total', 'Files that could not be made');
  private readonly bytes = this.counter('file_bytes_total', 'Bytes of files that were made');
  private readonly seconds = this.counter('file_seconds_total', 'Seconds that workers spent on files, by the stage that ended', ['stage']);

  constructor(private readonly services: Pick<Services, 'database' | 'hub'>) {
    collectDefaultMetrics({ register: this.registry, prefix: 'rundle_server_' });
  }

  get contentType(): string {
    return this.registry.contentType;
  }

  async text(): Promise<string> {
    const { database, hub } = this.services;
    const [view, totals] = await Promise.all([
      workersView(database),
      database.sequelize.query<{ name: string; value: number }>('SELECT name, value FROM work_totals', { type: QueryTypes.SELECT }),
    ]);
    this.streams.set(hub.size);
    this.tellWork(view);
    this.tellTotals(totals);
    return this.registry.metrics();
  }

  private tellWork({ workers, waiting }: WorkersView): void {
    for (const gauge of [this.waiting, this.oldest, this.workers, this.memory]) gauge.reset();
    for (const kind of Object.values<WorkKind>(KINDS)) this.waiting.set({ kind }, 0);
    for (const { kind, pieces, oldestSeconds } of waiting) {
      this.waiting.set({ kind }, pieces);
      this.oldest.set({ kind }, oldestSeconds);
    }
    for (const state of ['at-work', 'idle', 'drained', 'silent']) this.workers.set({ state }, 0);
    for (const { silent, drained, work, host, memoryBytes } of workers) {
      this.workers.inc({ state: silent ? 'silent' : work ? 'at-work' : drained ? 'drained' : 'idle' });
      this.memory.inc({ host }, memoryBytes ?? 0);
    }
  }

  /** What all workers have told, which outlasts each of them. */
  private tellTotals(totals: readonly { name: string; value: number }[]): void {
    const value = (name: string) => totals.find((total) => total.name === name)?.value ?? 0;
    for (const counter of [this.work, this.made, this.failed, this.bytes, this.seconds]) counter.reset();
    this.made.inc(value('done'));
    this.failed.inc(value('failed'));
    this.bytes.inc(value('bytes'));
    for (const [name, kind] of Object.entries(KINDS)) this.work.inc({ kind }, value(`work ${name}`));
    for (const stage of ['decoded', 'written', 'checked']) this.seconds.inc({ stage }, value(`seconds ${stage}`));
  }

  private gauge(name: string, help: string, labelNames: string[] = []): Gauge {
    return new Gauge({ name: `rundle_${name}`, help, labelNames, registers: [this.registry] });
  }

  private counter(name: string, help: string, labelNames: string[] = []): Counter {
    return new Counter({ name: `rundle_${name}`, help, labelNames, registers: [this.registry] });
  }
}
