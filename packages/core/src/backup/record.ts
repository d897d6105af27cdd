import * as z from 'zod';

const Sha256 = z.string().regex(/^[0-9a-f]{64}$/);

/** A path below a folder, `/` between levels, that never leads out of it. */
const Below = z
  .string()
  .min(1)
  .max(4000)
  .refine((path) => !path.startsWith('/') && !path.includes('\0') && !path.split('/').some((level) => ['', '.', '..'].includes(level)), {
    error: 'a path below the data folder',
  });

const BackupFile = z.strictObject({
  path: Below.meta({ description: 'Below the data folder' }),
  bytes: z.int().min(0),
  sha256: Sha256,
  mode: z.int().min(0).max(0o7777),
  mtimeMs: z.number(),
});
export type BackupFile = z.infer<typeof BackupFile>;

/** What stays out of a backup, in figures: it has to be looked after in another way. */
export const NotInBackup = z.object({
  masters: z.int().meta({ description: 'Pictures that stay where they are on the machine' }),
  outputs: z.int().meta({ description: 'Files that were written outside the data folder' }),
});
export type NotInBackup = z.infer<typeof NotInBackup>;

/** One backup: a database and the files that belong to it, each by its hash. */
export const BackupRecord = z.strictObject({
  kind: z.literal('rundle.backup'),
  version: z.literal(1),
  madeAt: z.iso.datetime(),
  /** The last change of the tables that the database knows. */
  schema: z.string(),
  database: z.strictObject({ bytes: z.int(), sha256: Sha256 }),
  /** The key to passwords of receivers, sealed; null: it was left out, and they have to be typed in again. */
  secrets: z.strictObject({ sealedFor: z.enum(['passphrase', 'key']), bytes: z.int(), sha256: Sha256 }).nullable(),
  notIn: NotInBackup,
  files: z.array(BackupFile),
});
export type BackupRecord = z.infer<typeof BackupRecord>;

/** What came of a backup. */
export const BackupDone = z.object({
  name: z.string(),
  files: z.int(),
  bytes: z.number().meta({ description: 'Of all that is in it' }),
  newBytes: z.number().meta({ description: 'What was not there from earlier backups' }),
  thinned: z.int().meta({ description: 'Earlier backups that were removed by the rule' }),
  notIn: NotInBackup,
});
export type BackupDone = z.infer<typeof BackupDone>;

/** What a backup is called: when it was made, UTC. @example "2026-05-14T19-30-00Z" */
export const backupName = (at: Date): string => `${at.toISOString().slice(0, 19).replaceAll(':', '-')}Z`;

/** When a backup of that name was made; null: it is no name of one. */
export function backupTime(name: string): Date | null {
  const [, day, hour, minute, second] = /^(\d{4}-\d{2}-\d{2})T(\d{2})-(\d{2})-(\d{2})Z$/.exec(name) ?? [];
  const at = new Date(`${day}T${hour}:${minute}:${second}Z`);
  return Number.isNaN(at.getTime()) ? null : at;
}
