import { spawn } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { BackupProblem } from './repository';

const ROOT = '/usr/lib/postgresql';

/** A program of PostgreSQL, as Debian installs it: of the newest version that is there. */
function program(name: string): string {
  const versions = existsSync(ROOT) ? readdirSync(ROOT).toSorted((a, b) => Number(b) - Number(a)) : [];
  return versions.map((version) => join(ROOT, version, 'bin', name)).find((path) => existsSync(path)) ?? name;
}

/**
 * Calls pg_dump or pg_restore on a database; its address goes by the environment, where no list of processes shows it.
 * @throws BackupProblem with what the program said
 */
export async function callPostgres(name: 'pg_dump' | 'pg_restore', databaseUrl: string, args: readonly string[]): Promise<void> {
  const { hostname, port, username, password, pathname, searchParams } = new URL(databaseUrl);
  const database = pathname.slice(1);
  const env = {
    ...process.env,
    PGHOST: hostname,
    PGPORT: port,
    PGUSER: decodeURIComponent(username),
    PGPASSWORD: decodeURIComponent(password),
    PGDATABASE: database,
    PGSSLMODE: searchParams.get('sslmode') ?? undefined,
    PGSSLROOTCERT: searchParams.get('sslrootcert') ?? undefined,
  };
  const child = spawn(program(name), args, { env, stdio: ['ignore', 'ignore', 'pipe'] });
  let said = '';
  child.stderr.setEncoding('utf8').on('data', (text: string) => (said = (said + text).slice(-2000)));
  const code = await new Promise<number | null>((resolve, reject) => {
    child.once('error', reject);
    child.once('exit', resolve);
  }).catch((error: unknown) => {
    throw new BackupProblem(`${name} does not start (${String(error)}). Install it with: sudo apt-get install postgresql-client`);
  });
  if (code !== 0) throw new BackupProblem(`${name} failed: ${said.trim().split('\n').at(-1) ?? code}`);
}
