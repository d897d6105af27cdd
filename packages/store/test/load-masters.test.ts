import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Database, loadMasters, masterJson, masterView, migrate, openDatabase } from '../src/index';
import { newDatabase } from './database';

let database: Database;
let setId: string;
beforeAll(async () => {
  const url = await newDatabase();
  database = openDatabase(url);
  await migrate(database, url, mkdtempSync(join(tmpdir(), 'rundle-outputs-')));
  setId = (await database.sets.create({ title: 'Set' })).id;
  for (let position = 0; position < 6; position++)
    await database.masters.create({
      setId,
      position,
      fileName: `${position}.jpg`,
      sha256: 'a'.repeat(64),
      bytes: 1000,
      state: 'arriving',
      facts: null,
      problem: null,
    });
});
afterAll(() => database?.close());

/** What is kept in memory must never be told in place of what the database holds. */
it('tells what the database holds, whatever has been changed, taken back or undone', async () => {
  const { masters, sequelize } = database;
  const change = fc.record({
    what: fc.constantFrom('stars', 'tags', 'bytes', 'position', 'removedAt'),
    which: fc.nat(5),
    value: fc.nat(4),
    undone: fc.boolean(),
    twice: fc.boolean(),
  });
  const columns = (what: string, value: number) =>
    what === 'tags' ? { tags: [`tag ${value}`] } : what === 'removedAt' ? { removedAt: value % 2 ? new Date() : null } : { [what]: value };
  const held = async (transaction: Parameters<typeof loadMasters>[2] = {}) => {
    const rows = await masters.findAll({ where: { setId, removedAt: null }, order: ['position', 'id'], ...transaction });
    return rows.map((row) => JSON.stringify(masterView(row))).sort();
  };
  const told = async (transaction: Parameters<typeof loadMasters>[2] = {}) => {
    const rows = await loadMasters(database, setId, transaction);
    expect(rows.map(({ position }) => position)).toEqual(rows.map(({ position }) => position).sort((a, b) => a - b));
    return rows.map(masterJson).sort();
  };
  const ids = (await masters.findAll({ where: { setId }, order: ['position'] })).map(({ id }) => id);
  await fc.assert(
    fc.asyncProperty(fc.array(change, { minLength: 1, maxLength: 8 }), async (changes) => {
      for (const { what, which, value, undone, twice } of changes) {
        const transaction = await sequelize.transaction();
        try {
          for (const given of twice ? [value + 1, value] : [value]) {
            await masters.update(columns(what, given), { where: { id: ids[which]! }, transaction });
            expect(await told({ transaction })).toEqual(await held({ transaction }));
          }
          // Outside the transaction nothing of it is seen yet.
          expect(await told()).toEqual(await held());
        } catch (error) {
          await transaction.rollback();
          throw error;
        }
        await (undone ? transaction.rollback() : transaction.commit());
        expect(await told()).toEqual(await held());
      }
    }),
    { numRuns: 40 },
  );
});
