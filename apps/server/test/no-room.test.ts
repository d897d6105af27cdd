import { execFileSync } from 'node:child_process';
import { existsSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { ProblemDetails } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

/** Only root may mount a small disk of its own: for others these tests are skipped, and counted so. */
const isRoot = process.getuid?.() === 0;

describe.skipIf(!isRoot)('a disk for data that is full', () => {
  let server: TestServer;
  const lines: string[] = [];
  beforeAll(async () => {
    const small = (_: unknown, data: string) =>
      Promise.resolve(void execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=3m', 'tmpfs', data]));
    server = await TestServer.start(false, small, (line) => lines.push(line));
  });
  afterAll(async () => {
    await server?.stop();
    if (server) execFileSync('umount', ['-l', server.config.data]);
  });

  it('is told as that, with what to do, and not as a fault', async () => {
    const { data } = server.config;
    const fill = join(data, 'fill');
    try {
      writeFileSync(fill, Buffer.alloc(4_000_000));
    } catch {
      // as much as there is room for
    }
    const receiver = { kind: 'webdav', title: 'Quay', address: 'http://127.0.0.1:9/dav', user: 'me' };
    const secret = 'a word that nobody may read';
    const { status, json } = await server.call<ProblemDetails>('POST', '/api/receivers', { receiver, secret });
    expect([status, json.code, json.detail]).toEqual([507, 'disk-full', expect.stringContaining('Make room there') as string]);
    expect(existsSync(join(data, 'secrets.key'))).toBe(false);
    rmSync(fill);
    expect((await server.call('POST', '/api/receivers', { receiver, secret })).status).toBe(201);
  });

  it('of the database is told so, too, and no log has the statement or what it was asked with', async () => {
    const { sequelize } = server.database;
    // What PostgreSQL says when its own disk is full, by its code.
    await sequelize.query(`CREATE FUNCTION no_room() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN RAISE EXCEPTION 'could not extend file' USING ERRCODE = 'disk_full'; END $$`);
    await sequelize.query('CREATE TRIGGER no_room BEFORE INSERT ON sets FOR EACH ROW EXECUTE FUNCTION no_room()');
    const title = 'A title that stands in no log';
    expect(await server.call('POST', '/api/sets', { title })).toMatchObject({ status: 507, json: { code: 'disk-full' } });
    await sequelize.query('DROP TRIGGER no_room ON sets');
    await sequelize.query("ALTER TABLE sets ADD CONSTRAINT never CHECK (title <> 'A title that stands in no log')");
    expect((await server.call('POST', '/api/sets', { title })).status).toBe(500);
    const log = lines.join('\n');
    expect(log).toContain('request failed');
    expect(log).not.toMatch(/INSERT INTO|A title that stands|"parameters"|"sql"/);
  });
});
