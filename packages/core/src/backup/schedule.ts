import * as z from 'zod';
import { MachinePath } from '../plan/place';
import { BackupDone, backupTime } from './record';

const DAY = 24 * 3600 * 1000;

/** How backups thin out with age: of each step the newest is kept. The newest of all is never removed. */
const KEPT = [
  { until: 2 * DAY, step: 3600 * 1000 },
  { until: 14 * DAY, step: DAY },
  { until: 60 * DAY, step: 7 * DAY },
  { until: Infinity, step: 30 * DAY },
];

/** The rule in words. */
export const KEEP_WORDS = 'one an hour for two days, one a day for two weeks, one a week for two months, then one a month';

/**
 * Which of the backups are removed by the rule.
 * @param names as {@link backupName} gives them; others are passed over
 */
export function thinnedOut(names: readonly string[], now: Date): string[] {
  const dated = names.flatMap((name) => {
    const at = backupTime(name);
    return at ? [{ name, at: at.getTime() }] : [];
  });
  const newestFirst = dated.toSorted((a, b) => b.at - a.at);
  const kept = new Set<string>();
  return newestFirst.slice(1).flatMap(({ name, at }) => {
    const age = now.getTime() - at;
    const { step } = KEPT.find(({ until }) => age < until)!;
    const slot = `${step} ${Math.floor(at / step)}`;
    if (kept.has(slot)) return [name];
    kept.add(slot);
    return [];
  });
}

/** A public key of age (age-encryption.org/v1): what is sealed for it only its private key opens. */
export const SealKey = z.string().regex(/^age1[02-9ac-hj-np-z]{58}$/, { error: 'a public key such as "age1…", 62 characters' });

/** When and where backups are made by themselves. */
export const BackupPlan = z
  .strictObject({
    isOn: z.boolean().default(false),
    folder: MachinePath.nullable().default(null).meta({ description: 'Below the folders that may be written to' }),
    hour: z.int().min(0).max(23).default(3).meta({ description: 'Of the day, by the clock of the machine' }),
    sealKey: SealKey.nullable().default(null).meta({ description: 'For which the key to passwords is sealed; null: it is left out' }),
  })
  .meta({ id: 'BackupPlan' });
export type BackupPlan = z.infer<typeof BackupPlan>;

/** Backups as the page of the studio tells them. */
export const BackupsView = z
  .object({
    plan: BackupPlan,
    running: z.boolean().meta({ description: 'Whether one is being made' }),
    folders: z.array(z.string()).meta({ description: 'Folders of the machine below which it may be written' }),
    rule: z.string().meta({ description: 'How earlier ones are thinned out' }),
    last: z
      .array(
        z.object({
          folder: z.string(),
          begunAt: z.iso.datetime(),
          finishedAt: z.iso.datetime(),
          done: BackupDone.nullable().meta({ description: 'Null: it failed' }),
          problem: z.string().nullable(),
        }),
      )
      .meta({ description: 'The last of them, the newest first' }),
  })
  .meta({ id: 'BackupsView' });
export type BackupsView = z.infer<typeof BackupsView>;

/**
 * Whether a backup is due: the hour of today has come, and none was begun since; one that was missed is made as soon as possible.
 * @param last when the last one was begun; null: none was
 */
export function isBackupDue({ isOn, folder, hour }: BackupPlan, last: Date | null, now: Date): boolean {
  if (!isOn || folder === null) return false;
  const due = new Date(now);
  due.setHours(hour, 0, 0, 0);
  if (due > now) due.setDate(due.getDate() - 1);
  return last === null || last < due;
}
