import { provideZonelessChangeDetection } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { Actions } from '@ngrx/effects';
import { provideStore } from '@ngrx/store';
import { BackupPlan, type BackupsView } from '@rundle/core';
import { EMPTY, of } from 'rxjs';
import { beforeEach, expect, it, vi } from 'vitest';
import { Api } from '../api/api';
import { BackupPlanForm } from './backup-plan';

const done = { name: 'b', files: 74, bytes: 208e6, newBytes: 3e6, thinned: 1, notIn: { masters: 2, outputs: 0 } };
const at = '2026-05-14T19:30:00.000Z';
const view = (more: Partial<BackupsView> = {}): BackupsView => ({
  plan: BackupPlan.parse({ folder: '/mnt/two/rundle' }),
  running: false,
  folders: ['/mnt/two'],
  rule: 'one a day',
  last: [],
  ...more,
});
const api = { getBackups: vi.fn(), changeBackupPlan: vi.fn(), makeBackup: vi.fn() };
let fixture: ComponentFixture<BackupPlanForm>;

beforeEach(() => {
  vi.resetAllMocks();
  TestBed.configureTestingModule({
    providers: [provideZonelessChangeDetection(), provideStore(), { provide: Actions, useValue: EMPTY }, { provide: Api, useValue: api }],
  });
});

async function shown(now: BackupsView): Promise<HTMLElement> {
  api.getBackups.mockReturnValue(of(now));
  fixture = TestBed.createComponent(BackupPlanForm);
  await fixture.whenStable();
  return fixture.nativeElement as HTMLElement;
}
const button = (page: HTMLElement, label: string) =>
  [...page.querySelectorAll('button')].find(({ textContent }) => textContent?.includes(label))!;
async function type(page: HTMLElement, id: string, text: string): Promise<void> {
  const field = page.querySelector<HTMLInputElement>(`#${id}`)!;
  field.value = text;
  field.dispatchEvent(new Event('input'));
  await fixture.whenStable();
}

it('tells what came of the last backups, and what is not in them', async () => {
  const page = await shown(
    view({
      last: [
        { folder: '/mnt/two/rundle', begunAt: at, finishedAt: at, done, problem: null },
        { folder: '/mnt/two/rundle', begunAt: at, finishedAt: at, done: null, problem: 'The disk is full.' },
      ],
    }),
  );
  const lines = [...page.querySelectorAll('li')].map((line) => line.textContent);
  expect(lines[0]).toContain(
    '74 files and the database, 208 MB, of which 3.0 MB new; 1 earlier one thinned out; not in it: 2 pictures on the machine',
  );
  expect(lines[1]).toContain('Not made: The disk is full.');
  expect(page.textContent).toContain('Below /mnt/two');
});

it('says what is wrong with what was typed, sends what is right, and makes one when that is asked for', async () => {
  const page = await shown(view());
  api.changeBackupPlan.mockReturnValue(of(view({ plan: BackupPlan.parse({ folder: '/mnt/two/new' }) })));
  api.makeBackup.mockReturnValue(of(view({ running: true })));
  await type(page, 'backup-key', 'age1nobody');
  button(page, 'Save').click();
  await fixture.whenStable();
  expect(page.querySelector('.wrong')?.textContent).toContain('Passwords sealed for: a public key');
  expect(api.changeBackupPlan).not.toHaveBeenCalled();
  // What is not saved is not made.
  expect(button(page, 'Make one now').disabled).toBe(true);
  await type(page, 'backup-key', '');
  await type(page, 'backup-folder', '/mnt/two/new');
  button(page, 'Save').click();
  await fixture.whenStable();
  expect(api.changeBackupPlan).toHaveBeenCalledWith({ body: { isOn: false, folder: '/mnt/two/new', hour: 3, sealKey: null } });
  button(page, 'Make one now').click();
  await fixture.whenStable();
  expect(button(page, 'Being made').disabled).toBe(true);
});
