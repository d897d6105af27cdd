import fc from 'fast-check';
import { expect, it } from 'vitest';
import { BackupRecord, backupName, backupTime } from './record';
import { BackupPlan, isBackupDue, thinnedOut } from './schedule';

const DAY = 24 * 3600 * 1000;
const NOW = new Date('2026-05-14T12:00:00Z');
const ago = (ms: number) => backupName(new Date(NOW.getTime() - ms));

it('a backup is called by its time, to the second', () => {
  expect(backupName(NOW)).toBe('2026-05-14T12-00-00Z');
  expect([backupTime('2026-05-14T12-00-00Z'), backupTime('holiday'), backupTime('2026-13-14T12-00-00Z')]).toEqual([NOW, null, null]);
});

it('old backups are thinned out by the rule, and the newest never is', () => {
  const hourly = Array.from({ length: 24 * 40 }, (_, hours) => ago(hours * 3600 * 1000));
  const kept = (names: readonly string[], now = NOW) => names.filter((name) => !thinnedOut(names, now).includes(name));
  const left = kept(hourly);
  expect(left.filter((name) => name > ago(2 * DAY))).toHaveLength(48);
  const days = left.filter((name) => name <= ago(2 * DAY) && name > ago(14 * DAY));
  expect([days.length >= 12, days.length <= 14]).toEqual([true, true]);
  expect(left.filter((name) => name <= ago(14 * DAY)).length).toBeLessThan(6);
  expect(thinnedOut([ago(900 * DAY)], NOW)).toEqual([]);
  fc.assert(
    fc.property(fc.array(fc.nat(900 * 24), { minLength: 1, maxLength: 60 }), (hours) => {
      const names = [...new Set(hours.map((hour) => ago(hour * 3600 * 1000)))];
      const once = kept(names);
      // The newest is kept, what is kept stays kept at once, and names of others are never told.
      expect(once).toContain(names.toSorted().at(-1));
      expect(kept(once)).toEqual(once);
      expect(thinnedOut([...names, 'somebody’s'], NOW)).not.toContain('somebody’s');
    }),
  );
});

it('one is due when its hour has come, and when it was missed', () => {
  const plan = BackupPlan.parse({ isOn: true, folder: '/srv/backup', hour: 3 });
  const at = (day: number, hour: number) => new Date(2026, 4, day, hour, 30);
  expect(isBackupDue(plan, null, at(14, 1))).toBe(true);
  expect(isBackupDue(plan, at(13, 3), at(14, 2))).toBe(false);
  expect(isBackupDue(plan, at(13, 3), at(14, 4))).toBe(true);
  expect(isBackupDue(plan, at(14, 3), at(14, 23))).toBe(false);
  expect(isBackupDue(plan, at(10, 3), at(14, 1))).toBe(true);
  expect(isBackupDue({ ...plan, isOn: false }, null, at(14, 4))).toBe(false);
  expect(BackupPlan.safeParse({ sealKey: 'age1short' }).success).toBe(false);
});

it('a record never names a file outside the data folder', () => {
  const file = { bytes: 1, sha256: 'a'.repeat(64), mode: 0o600, mtimeMs: 1 };
  const record = (path: string) =>
    BackupRecord.safeParse({
      kind: 'rundle.backup',
      version: 1,
      madeAt: NOW.toISOString(),
      schema: '1',
      database: { bytes: 1, sha256: 'b'.repeat(64) },
      secrets: null,
      notIn: { masters: 0, outputs: 0 },
      files: [{ ...file, path }],
    }).success;
  expect(['masters/aa/b', 'a..b/c'].map(record)).toEqual([true, true]);
  expect(['/etc/passwd', '../x', 'a/../../x', 'a//b', ''].map(record)).toEqual([false, false, false, false, false]);
});
