import { createConnection } from 'node:net';
import { rmSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { COMMON_ERRORS, type Endpoint, ENDPOINTS, type FromMachineResult, type RunDetail, type SetDetail } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seeded } from '../../../e2e/src/storm/random';
import { type Call, Fuzz, type KnownIds, send } from './fuzz';
import { picture, TestServer } from './server';

/** As many as the report in docs/reliability.md speaks of when RUNDLE_FUZZ says so; fewer in every run of the tests. */
const REQUESTS = Number(process.env['RUNDLE_FUZZ'] ?? 3000);

let server: TestServer;
const log: string[] = [];
beforeAll(async () => {
  server = await TestServer.start(true, undefined, (line) => log.push(line));
});
afterAll(() => server?.stop());

const portOf = () => Number(server.url.split(':')[2]);

/** Whether an endpoint says that it may end so; uploads follow a protocol of their own. */
function mayEndWith({ method, template }: Call, code: string): boolean {
  const endpoint = Object.values<Endpoint>(ENDPOINTS).find((one) => one.path === template && one.method === method.toLowerCase());
  return !endpoint || [...COMMON_ERRORS, ...(endpoint.errors ?? [])].some((known) => known === code);
}

describe('requests', () => {
  it(`${REQUESTS} of them, most of them wrong, get an answer below 500 each, and the log tells no secret`, async () => {
    const setId = await server.set('Fuzzed', 2);
    const presets = (await server.presets()).map(({ id }) => id);
    const { json: run } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [presets[1]] });
    const masters = (await server.detail(setId)).masters.map(({ id }) => id);
    const rules = (await server.call<{ id: string }[]>('GET', '/api/house-rules')).json.map(({ id }) => id);
    const ids: KnownIds = { sets: [setId], masters, presets, runs: [run.id], rules };
    const fuzz = new Fuzz(
      seeded(10),
      [...Object.values<Endpoint>(ENDPOINTS), { method: 'post', path: '/api/uploads' }, { method: 'patch', path: '/api/uploads/x' }],
      ids,
    );
    const wrong: string[] = [];
    const statuses = new Map<number, number>();
    let left = REQUESTS;
    const client = async () => {
      while (left-- > 0) {
        const call = fuzz.next();
        const { status, code } = await send(portOf(), call);
        if (code !== null && !mayEndWith(call, code)) wrong.push(`${call.method} ${call.template} does not declare ${code}`);
        statuses.set(status, (statuses.get(status) ?? 0) + 1);
        if (status === 0 || status >= 500)
          wrong.push(`${status} ${call.method} ${call.path.slice(0, 80)} ${call.body?.toString('latin1').slice(0, 160)}`);
      }
    };
    await Promise.all(Array.from({ length: 8 }, client));
    expect(wrong.slice(0, 10)).toEqual([]);
    // Enough of them get past the door, and enough are refused there.
    const share = (from: number) =>
      [...statuses].filter(([status]) => status >= from && status < from + 100).reduce((sum, [, n]) => sum + n, 0) / REQUESTS;
    expect(share(200)).toBeGreaterThan(0.1);
    expect(share(400)).toBeGreaterThan(0.3);
    const said = log.join('\n');
    const password = new URL(server.config.databaseUrl).password;
    for (const secret of [password, 'secret-cookie', 'secret-token']) expect(said.includes(secret)).toBe(false);
    expect((await server.call('GET', '/api/sets')).status).toBe(200);
  });

  it('that are never finished are ended, and nobody else waits for them', async () => {
    const socket = createConnection(portOf(), '127.0.0.1');
    socket.write('POST /api/sets HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{"title"');
    let said = '';
    socket.on('data', (data: Buffer) => (said += data.toString()));
    const ended = new Promise((resolve) => socket.once('close', resolve));
    expect((await server.call('GET', '/api/sets')).status).toBe(200);
    await ended;
    expect(said).toMatch(/^HTTP\/1\.1 408/);
  });

  it('of uploads say nothing to pages of other sites, and pages may only use what is ours', async () => {
    const headers = { 'tus-resumable': '1.0.0', origin: 'http://other.example', 'sec-fetch-site': 'cross-site' };
    const head = await fetch(`${server.url}/api/uploads/${'a'.repeat(32)}`, { method: 'HEAD', headers });
    const options = await fetch(`${server.url}/api/uploads`, { method: 'OPTIONS', headers });
    for (const { headers: said } of [head, options]) said.forEach((_value, name) => expect(name).not.toMatch(/^access-control/));
    const policy = options.headers.get('content-security-policy') ?? '';
    expect(policy).toContain("default-src 'self'");
    expect(policy).not.toContain('https:');
  });

  it('for a master of the machine never get another file that was put in its place', async () => {
    const [root] = server.config.roots;
    const path = join(root!, 'mine.jpg');
    writeFileSync(path, new Uint8Array(await (await picture('mine.jpg', 300)).arrayBuffer()));
    const secret = join(server.config.data, 'secret.jpg');
    writeFileSync(secret, 'secret');
    const { json: set } = await server.call<SetDetail>('POST', '/api/sets', { title: 'Linked' });
    await server.call<FromMachineResult>('POST', `/api/sets/${set.id}/masters/from-machine`, { path: root!, deeper: false });
    await server.until(async () => (await server.detail(set.id)).masters[0]?.state === 'ready');
    const [master] = (await server.detail(set.id)).masters;
    const answer = () => fetch(`${server.url}/api/masters/${master!.id}/picture`);
    const before = await answer();
    expect(before.status).toBe(200);
    const part = await fetch(`${server.url}/api/masters/${master!.id}/picture`, { headers: { range: 'bytes=0-1' } });
    expect([part.status, Buffer.from(await part.arrayBuffer()).toString('hex')]).toEqual([206, 'ffd8']);
    rmSync(path);
    symlinkSync(secret, path);
    const after = await answer();
    expect(after.status).toBe(404);
    expect(await after.text()).not.toContain('secret');
  });

  it('cannot be made by others on the machine: what is in the store is its owner’s alone', async () => {
    await server.set('Own', 1);
    const mode = (path: string) => (statSync(path).mode & 0o777).toString(8);
    expect(mode(join(server.config.data, 'masters'))).toBe('700');
    expect(mode(join(server.config.data, 'incoming'))).toBe('700');
    const [master] = await server.database.masters.findAll({ where: { sourcePath: null }, limit: 1 });
    expect(mode(join(server.config.data, 'masters', master!.sha256!.slice(0, 2), master!.sha256!))).toBe('600');
  });
});
