import { type ChildProcess, fork } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type {
  Master,
  MasterPage,
  Problem,
  ProblemDetails,
  SetDetail,
  SetEvent,
  StreamEvent,
  StoredPreset,
  Twin,
  UploadResult,
} from '@rundle/core';
import {
  claimStudio,
  type Config,
  type Database,
  type Files,
  migrate,
  openDatabase,
  openFiles,
  openLog,
  outputsFolder,
} from '@rundle/store';
import { Client } from 'pg';
import sharp from 'sharp';
import { Upload } from 'tus-js-client';
import { becomesSo } from '../../../e2e/src/patience';
import { newDatabase } from '../../../packages/store/test/database';
import { Backups } from '../src/backups/backups';
import { Courier } from '../src/deliveries/courier';
import { EventHub } from '../src/events/hub';
import { buildApp } from '../src/http/app';
import { Trials } from '../src/receivers/trials';
import { Samplers } from '../src/samples/samplers';
import { seed } from '../src/seed';
import type { Services } from '../src/services';
import { StandingOrders } from '../src/standing-orders/standing-orders';
import { CheckedMarks } from '../src/watermarks/checked-marks';
import { SetThreads } from '../src/threads/set-threads';

const SET_THREAD = new URL('../../../dist/set-thread.js', import.meta.url);
const COURIER = fileURLToPath(new URL('../../../dist/courier.js', import.meta.url));
export const KEEPER = fileURLToPath(new URL('../../../dist/keeper.js', import.meta.url));
const MARK_CHECK = fileURLToPath(new URL('../../../dist/mark-check.js', import.meta.url));
const TRIAL = fileURLToPath(new URL('../../../dist/receiver-trial.js', import.meta.url));
const SAMPLE_PROCESS = fileURLToPath(new URL('../../../dist/sample-process.js', import.meta.url));
const SHEET_PROCESS = fileURLToPath(new URL('../../../dist/sheet-process.js', import.meta.url));
const RUNDLE = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const WORKER = fileURLToPath(new URL('../../../dist/worker.js', import.meta.url));

const UNWEIGHED = `SELECT w.key FROM work w JOIN masters m ON m.id = w.master_id WHERE m.set_id = :id AND w.name = 'weigh-master'`;

export const METRICS_TOKEN = 'for the metrics of a test';

/** The real server on a database of its own, with a real worker beside it. */
export class TestServer {
  readonly workers: ChildProcess[] = [];
  /** Those that go on; null while a test has them stand still. */
  private orders: StandingOrders | null = null;

  private constructor(
    readonly url: string,
    readonly config: Config,
    readonly database: Database,
    readonly files: Files,
    readonly lookAfterUploads: () => Promise<void>,
    private readonly server: Server,
    private readonly services: Services,
  ) {}

  /**
   * @param withWorker false: the test starts its own
   * @param prepare fills the new database and the data folder before the server opens them
   * @param onLog hears every line of the server's log
   */
  static async start(
    withWorker = true,
    prepare: (database: Client, data: string) => Promise<void> = () => Promise.resolve(),
    onLog: ((line: string) => void) | null = null,
  ): Promise<TestServer> {
    const config: Config = {
      databaseUrl: await newDatabase(),
      data: mkdtempSync(join(tmpdir(), 'rundle-server-')),
      port: 1,
      web: '/nowhere',
      demoMasters: '',
      uploadBytes: 3e6,
      studio: '',
      standIns: true,
      metricsToken: METRICS_TOKEN,
      logLevel: 'error',
      roots: [mkdtempSync(join(tmpdir(), 'rundle-machine-'))],
      writeRoots: [mkdtempSync(join(tmpdir(), 'rundle-written-'))],
    };
    const filler = new Client({ connectionString: config.databaseUrl });
    await filler.connect();
    await prepare(filler, config.data);
    await filler.end();
    const database = openDatabase(config.databaseUrl);
    await migrate(database, config.databaseUrl, outputsFolder(config.data));
    const log = onLog ? openLog('server', 'debug', { write: onLog }) : openLog('server', 'silent');
    const hub = new EventHub(database, config.databaseUrl, log);
    const threads = new SetThreads(SET_THREAD, config);
    const files = await openFiles(config.data, config.writeRoots);
    const samplers = new Samplers(SAMPLE_PROCESS, join(config.data, 'samples'));
    const courier = new Courier(COURIER, config, database, log);
    courier.start();
    const backups = new Backups(KEEPER, config, database, log);
    const services = {
      config,
      database,
      files,
      hub,
      threads,
      samplers,
      sheetProgram: SHEET_PROCESS,
      rundleProgram: RUNDLE,
      courier,
      backups,
      trials: new Trials(TRIAL),
      checkedMarks: new CheckedMarks(MARK_CHECK),
      log,
    };
    await claimStudio(database, files.masters, config.data);
    await seed(services);
    const { app, lookAfterUploads } = buildApp(services);
    const server = createServer({ keepAliveTimeout: 65_000 }, app);
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo;
    const started = new TestServer(`http://127.0.0.1:${port}`, config, database, files, lookAfterUploads, server, services);
    if (withWorker) await started.startWorker();
    return started;
  }

  /** @param more environment variables beside the usual ones */
  async startWorker(more: NodeJS.ProcessEnv = {}): Promise<ChildProcess> {
    const { databaseUrl, data, writeRoots } = this.config;
    const usual = { RUNDLE_DATABASE_URL: databaseUrl, RUNDLE_DATA: data, RUNDLE_LOG: 'silent', RUNDLE_WRITE_ROOTS: writeRoots.join(':') };
    const env = { ...process.env, ...usual, ...more };
    const worker = fork(WORKER, [], { env });
    this.workers.push(worker);
    await new Promise((resolve, reject) =>
      worker.once('message', resolve).once('exit', () => reject(new Error('The worker did not start.'))),
    );
    return worker;
  }

  /** Calls the interface; gives the status and the JSON. */
  async call<T = unknown>(
    method: string,
    path: string,
    body?: object,
    headers: Record<string, string> = {},
  ): Promise<{ status: number; json: T }> {
    const json = body instanceof FormData ? body : body && JSON.stringify(body);
    const type: Record<string, string> = body && !(body instanceof FormData) ? { 'content-type': 'application/json' } : {};
    const response = await fetch(`${this.url}${path}`, {
      method,
      headers: { ...type, connection: 'close', ...headers },
      ...(json ? { body: json } : {}),
    });
    const text = await response.text();
    return { status: response.status, json: (text ? JSON.parse(text) : null) as T };
  }

  /** A set with pictures that have been read, and weighed as far as they are without a plan. */
  async set(title: string, count: number, width = 900): Promise<string> {
    const { json } = await this.call<{ id: string }>('POST', '/api/sets', { title });
    const files = await Promise.all(Array.from({ length: count }, (_, index) => picture(`p ${index + 1}.jpg`, width, index)));
    await this.upload(json.id, files);
    await this.until(async () => (await this.detail(json.id)).masters.every(({ state }) => state !== 'arriving'));
    const replacements = { id: json.id };
    await this.until(async () => (await this.database.sequelize.query(UNWEIGHED, { replacements }))[0].length === 0);
    return json.id;
  }

  /** Sends files one after the other, as a page does; what is refused is told with its reason. */
  async upload(setId: string, files: File[], arrivals: number[] = []): Promise<{ masters: Master[]; twins: Twin[]; refused: Problem[] }> {
    const all: { masters: Master[]; twins: Twin[]; refused: Problem[] } = { masters: [], twins: [], refused: [] };
    for (const [at, file] of files.entries()) {
      const { status, text } = await this.send(setId, file, arrivals[at]);
      if (status === 200) {
        const { masters, twins } = JSON.parse(text) as UploadResult;
        all.masters.push(...masters);
        all.twins.push(...twins);
      } else
        all.refused.push(
          ...((JSON.parse(text) as ProblemDetails).problems ?? []).map((problem) => ({ file: basename(file.name), ...problem })),
        );
    }
    return all;
  }

  private async send(setId: string, file: File, arrival?: number): Promise<{ status: number; text: string }> {
    const data = Buffer.from(await file.arrayBuffer());
    return new Promise((resolve, reject) => {
      const upload = new Upload(data, {
        endpoint: `${this.url}/api/uploads`,
        metadata: { setId, filename: file.name, ...(arrival === undefined ? {} : { arrival: String(arrival) }) },
        retryDelays: null,
        chunkSize: 1e9,
        onSuccess: ({ lastResponse }) => resolve({ status: lastResponse.getStatus(), text: lastResponse.getBody() }),
        onError: (error) =>
          'originalResponse' in error && error.originalResponse
            ? resolve({ status: error.originalResponse.getStatus(), text: error.originalResponse.getBody() })
            : reject(error),
      });
      upload.start();
    });
  }

  /** A set with its masters. */
  async detail(setId: string): Promise<SetDetail & MasterPage> {
    const { json } = await this.call<SetDetail>('GET', `/api/sets/${setId}`);
    return { ...json, ...(await this.call<MasterPage>('GET', `/api/sets/${setId}/masters`)).json };
  }

  /** Follows a set as a page does: server-sent events (WHATWG HTML, 9.2), in a list that grows. */
  async follow(setId: string): Promise<SetEvent[]> {
    const events: SetEvent[] = [];
    const streamId = await this.listen((event) => {
      if (event.about === 'set') events.push(event.event);
    });
    await this.call('PUT', `/api/events/${streamId}`, { setIds: [setId] });
    return events;
  }

  /** Opens an event stream. @returns its id */
  async listen(hear: (event: StreamEvent) => void): Promise<string> {
    const response = await fetch(`${this.url}/api/events`);
    return new Promise((resolve) => {
      const read = async () => {
        let text = '';
        const reader = response.body!.getReader();
        const decoder = new TextDecoder();
        for (let part = await reader.read(); !part.done; part = await reader.read()) {
          text += decoder.decode(part.value, { stream: true });
          const blocks = text.split('\n\n');
          text = blocks.pop() ?? '';
          for (const event of blocks
            .filter((block) => block.startsWith('data: '))
            .map((block) => JSON.parse(block.slice(6)) as StreamEvent)) {
            if (event.about === 'stream') resolve(event.streamId);
            hear(event);
          }
        }
      };
      read().catch(() => {}); // the stream breaks off when the server ends
    });
  }

  async presets(): Promise<StoredPreset[]> {
    return (await this.call<StoredPreset[]>('GET', '/api/presets')).json;
  }

  async until(is: () => Promise<boolean>, within = 240_000): Promise<void> {
    if (!(await becomesSo(is, within))) throw new Error(`It has not become so within ${within} ms: ${is.toString()}`);
  }

  /** Has standing orders carried out from now on, as a server does that has just been started. */
  startOrders(): void {
    this.orders = new StandingOrders(this.services);
    this.orders.start();
  }

  async endOrders(): Promise<void> {
    await this.orders?.end();
    this.orders = null;
  }

  async stop(): Promise<void> {
    await this.endOrders();
    await Promise.all(
      this.workers.map(async (worker) => {
        if (worker.exitCode !== null || worker.signalCode !== null) return;
        worker.kill('SIGTERM');
        await new Promise((resolve) => worker.once('exit', resolve));
      }),
    );
    const { backups, courier, hub, threads, samplers } = this.services;
    await backups.close();
    await courier.close();
    await hub.close();
    this.server.closeAllConnections();
    await new Promise((resolve) => this.server.close(resolve));
    await threads.close();
    await samplers.close();
    await this.database.close();
  }
}

export async function picture(name: string, width: number, shade = 0): Promise<File> {
  const background = { r: 40 + 20 * (shade % 10), g: 90, b: 120 };
  const noise = { type: 'gaussian' as const, mean: 128, sigma: 20 };
  const data = await sharp({ create: { width, height: Math.round((width * 2) / 3), channels: 3, background, noise } })
    .jpeg()
    .toBuffer();
  return new File([new Uint8Array(data)], name);
}
