import { Client } from 'pg';

/** Makes an empty database for one test file and tells its URL. */
export async function newDatabase(): Promise<string> {
  const main = process.env['RUNDLE_TEST_DATABASE_URL'];
  if (!main) throw new Error('These tests need a database: call them by npm test.');
  const name = `test_${process.pid}_${Date.now()}`;
  const client = new Client({ connectionString: main });
  await client.connect();
  await client.query(`CREATE DATABASE ${name}`);
  await client.end();
  return main.replace(/\/[^/]*$/, `/${name}`);
}
