import { homedir } from 'node:os';
import { delimiter, resolve } from 'node:path';
import * as z from 'zod';
import { databaseAddress } from './database/address';
import type { StudioDecision } from './studio-identity';

/** The configuration of the programs, from environment variables. */
const Environment = z.object({
  RUNDLE_DATABASE_URL: z.string({ error: 'the address of the database, postgres://...' }).startsWith('postgres'),
  RUNDLE_DATA: z.string().min(1).default('data'),
  RUNDLE_PORT: z.coerce.number().int().min(1).max(65_535).default(4820),
  RUNDLE_WEB: z.string().default('dist/web/browser'),
  RUNDLE_DEMO_MASTERS: z.string().default(''),
  RUNDLE_UPLOAD_MB: z.coerce.number().int().min(1).max(20_000).default(2000),
  RUNDLE_ROOTS: z.string().default(homedir()),
  RUNDLE_WRITE_ROOTS: z.string().default(''),
  RUNDLE_STUDIO: z.enum(['', 'new', 'moved']).default(''),
  RUNDLE_STAND_INS: z.enum(['on', 'off']).default('on'),
  /** The name that it had when the feed was the only one. */
  RUNDLE_FEED: z.enum(['on', 'off']).default('on'),
  RUNDLE_METRICS_TOKEN: z.union([z.literal(''), z.string().min(16, { error: 'at least 16 letters' })]).default(''),
  RUNDLE_LOG: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('info'),
});

export interface Config {
  databaseUrl: string;
  /** Folder for masters, caches and outputs, absolute. */
  data: string;
  port: number;
  /** Folder of the built web application, absolute. */
  web: string;
  /** Folder whose pictures fill the demo set on the first start; empty for none. */
  demoMasters: string;
  /** The most bytes one uploaded file may have. */
  uploadBytes: number;
  /** Folders of this machine that pictures may be brought in from, with all below them; absolute. */
  roots: string[];
  /** Folders of this machine that outputs may be written to, with all below them; absolute. None unless it is said. */
  writeRoots: string[];
  /** What a person has said of a data folder and a database that do not seem to belong together. */
  studio: StudioDecision;
  /** Whether the made-up receivers run. */
  standIns: boolean;
  /** What `/metrics` is asked for with; empty: there is no such page. */
  metricsToken: string;
  logLevel: string;
}

/**
 * Reads the configuration.
 * @throws Error that names the variable that is wrong
 */
export function readConfig(environment: NodeJS.ProcessEnv = process.env): Config {
  const parsed = Environment.safeParse(environment);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new Error(`The environment variable ${issue?.path.join('.')} is wrong: ${issue?.message}.`);
  }
  const env = parsed.data;
  return {
    databaseUrl: addressOf(env.RUNDLE_DATABASE_URL),
    data: resolve(env.RUNDLE_DATA),
    port: env.RUNDLE_PORT,
    web: resolve(env.RUNDLE_WEB),
    demoMasters: env.RUNDLE_DEMO_MASTERS,
    uploadBytes: env.RUNDLE_UPLOAD_MB * 1e6,
    studio: env.RUNDLE_STUDIO,
    standIns: env.RUNDLE_STAND_INS === 'on' && env.RUNDLE_FEED === 'on',
    metricsToken: env.RUNDLE_METRICS_TOKEN,
    logLevel: env.RUNDLE_LOG,
    roots: foldersOf(env.RUNDLE_ROOTS),
    writeRoots: foldersOf(env.RUNDLE_WRITE_ROOTS),
  };
}

function addressOf(url: string): string {
  try {
    return databaseAddress(url);
  } catch (error) {
    throw new Error(`The environment variable RUNDLE_DATABASE_URL is wrong: ${error instanceof Error ? error.message : String(error)}.`);
  }
}

const foldersOf = (list: string): string[] =>
  list
    .split(delimiter)
    .filter(Boolean)
    .map((folder) => resolve(folder));
