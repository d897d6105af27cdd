import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { claimStudio, ForeignDatabase, openDatabase, openFiles, migrate, outputsFolder } from '@rundle/store';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { newDatabase } from '../../../packages/store/test/database';
import { TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server?.stop());

it('a data folder goes with its own database, and with no other', async () => {
  const { config, files } = server;
  const { data } = config;
  const idOf = () => (JSON.parse(readFileSync(join(data, 'studio.json'), 'utf8')) as { id: string }).id;
  const own = idOf();
  await server.set('Mine', 1);
  await claimStudio(server.database, files.masters, data);
  expect(idOf()).toBe(own);

  // An empty database beside its masters; only on demand a new studio begins, which is told from the first.
  const url = await newDatabase();
  const empty = openDatabase(url);
  await migrate(empty, url, outputsFolder(data));
  const refused = claimStudio(empty, files.masters, data);
  await expect(refused).rejects.toBeInstanceOf(ForeignDatabase);
  await expect(refused).rejects.toThrow(/holds 1 uploaded picture, but its database is empty/);
  expect(idOf()).toBe(own);
  await claimStudio(empty, files.masters, data, 'new');
  expect(idOf()).not.toBe(own);
  // What it belongs to now is the new one: the first is another studio's.
  await expect(claimStudio(server.database, files.masters, data)).rejects.toThrow(/belong to different studios/);

  // A folder of before there were ids, or half a note, adopts that of the database that knows its pictures.
  for (const text of [null, '{"id":']) {
    if (text === null) rmSync(join(data, 'studio.json'));
    else writeFileSync(join(data, 'studio.json'), text);
    await claimStudio(server.database, files.masters, data);
    expect(idOf()).toBe(own);
  }
  rmSync(join(data, 'studio.json'));
  await server.database.sequelize.query('DELETE FROM studio_identity');
  await claimStudio(server.database, files.masters, data);
  // Pictures that it knows nothing of are another's.
  const foreign = `${data}-foreign`;
  const strangers = (await openFiles(foreign)).masters;
  mkdirSync(join(foreign, 'masters', 'ef'), { recursive: true });
  writeFileSync(join(foreign, 'masters', 'ef', 'ef'.repeat(32)), 'a picture');
  await expect(claimStudio(server.database, strangers, foreign)).rejects.toThrow(/belong to different studios/);
  // Unless somebody knows better.
  await claimStudio(server.database, strangers, foreign, 'moved');
  rmSync(foreign, { recursive: true });
  await empty.close();
});
