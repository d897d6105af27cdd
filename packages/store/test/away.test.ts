import { setTimeout as wait } from 'node:timers/promises';
import { expect, it } from 'vitest';
import { openDatabase } from '../src/database/connection';
import { whenThere } from '../src/database/away';
import { newDatabase } from './database';

it('of two that wait for each other the one that PostgreSQL ends is done again, and nobody is told that the database was away', async () => {
  const { sequelize, close } = openDatabase(await newDatabase());
  await sequelize.query("CREATE TABLE pots (name text PRIMARY KEY, fill int NOT NULL); INSERT INTO pots VALUES ('a', 0), ('b', 0)");
  const told: unknown[] = [];
  let begun = 0;
  const fill = (...names: string[]) =>
    whenThere(
      () =>
        sequelize.transaction(async (transaction) => {
          begun++;
          for (const name of names) {
            await sequelize.query(`UPDATE pots SET fill = fill + 1 WHERE name = :name`, { replacements: { name }, transaction });
            await wait(300);
          }
        }),
      (error) => told.push(error),
    );
  await Promise.all([fill('a', 'b'), fill('b', 'a')]);
  const [rows] = await sequelize.query('SELECT name, fill FROM pots ORDER BY name');
  expect(rows).toEqual([
    { name: 'a', fill: 2 },
    { name: 'b', fill: 2 },
  ]);
  expect([begun, told]).toEqual([3, []]);
  await close();
});
