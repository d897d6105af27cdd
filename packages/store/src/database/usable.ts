import { setTimeout as wait } from 'node:timers/promises';
import { Client } from 'pg';

/** The database cannot be used as it is. The message says what was found and how to go on. */
export class UnusableDatabase extends Error {}

/** The first version that is tested, as `server_version_num` has it; and the last. */
const TESTED = 15;

/** How long a question may go without an answer, in ms: then the database is away, or a pooler has no free place, and it is tried again. */
const NO_ANSWER = 30_000;

/**
 * Looks whether a database can be used: it has to be of a version that is known, let its tables be made, and give each connection a session of its
 * own, since notices and locks belong to one.
 * @returns what is worth telling, though it can be used; null: nothing
 * @throws UnusableDatabase
 */
export async function checkDatabase(url: string): Promise<string | null> {
  const clients = Array.from(
    { length: 2 },
    () => new Client({ connectionString: url, query_timeout: NO_ANSWER, connectionTimeoutMillis: NO_ANSWER }),
  );
  const [own, other] = clients as [Client, Client];
  for (const client of clients) client.on('error', () => {}); // told by what is asked next
  try {
    await own.connect();
    await other.connect();
    const version = await versionOf(own);
    await refuseWithoutRights(own);
    await refusePooler(own, other);
    return version === TESTED ? null : `The database is PostgreSQL ${version}; this version of Rundle has been tested with ${TESTED} only.`;
  } finally {
    await Promise.all(clients.map((client) => Promise.race([client.end(), wait(1000, undefined, { ref: false })]).catch(() => {})));
  }
}

async function versionOf(client: Client): Promise<number> {
  const { rows } = await client.query<{ number: number }>(`SELECT current_setting('server_version_num')::int / 10000 AS number`);
  const version = rows[0]!.number;
  if (version < TESTED) throw new UnusableDatabase(`The database is PostgreSQL ${version}; Rundle needs ${TESTED} or a later one.`);
  return version;
}

async function refuseWithoutRights(client: Client): Promise<void> {
  const { rows } = await client.query<{ database: string; role: string; ofDatabase: boolean; ofSchema: boolean; temporary: boolean }>(
    `SELECT current_database() AS database, current_user AS role, has_database_privilege(current_database(), 'CREATE') AS "ofDatabase",
       has_schema_privilege('public', 'CREATE') AS "ofSchema", has_database_privilege(current_database(), 'TEMPORARY') AS temporary`,
  );
  const { database, role, ofDatabase, ofSchema, temporary } = rows[0]!;
  if (ofDatabase && ofSchema && temporary) return;
  const missing = [
    ...(ofDatabase ? [] : ['schemas']),
    ...(ofSchema ? [] : ['tables in the schema public']),
    ...(temporary ? [] : ['temporary tables']),
  ];
  throw new UnusableDatabase(
    `The role ${role} may not make ${missing.join(' or ')} in the database ${database}. Let it own the database:
  ALTER DATABASE "${database}" OWNER TO "${role}";`,
  );
}

/** One connection that is led to another process of the server while a second is busy shares its sessions with it. */
async function refusePooler(own: Client, other: Client): Promise<void> {
  const processOf = async (client: Client) => (await client.query<{ pid: number }>('SELECT pg_backend_pid() AS pid')).rows[0]!.pid;
  const before = await processOf(own);
  await other.query('BEGIN');
  const taken = await processOf(other);
  const after = await processOf(own);
  await other.query('ROLLBACK');
  if (before === after && before !== taken) return;
  throw new UnusableDatabase(
    `Between Rundle and the database stands a pooler that gives each transaction another session (pgbouncer with pool_mode = transaction, for example).
Notices between programs and locks that last belong to a session: with it, pages would not hear of changes, and workers would count as dead.
Give RUNDLE_DATABASE_URL the address of PostgreSQL itself, or of a pooler with pool_mode = session.`,
  );
}
