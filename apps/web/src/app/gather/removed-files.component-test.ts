import { provideZonelessChangeDetection } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { Actions } from '@ngrx/effects';
import { type Action, Store } from '@ngrx/store';
import { of, Subject } from 'rxjs';
import { beforeEach, expect, it, vi } from 'vitest';
import { Api } from '../api/api';
import { providePlanStores } from '../plan/plan-stores';
import { sampleSet } from '../set/sample-master';
import { setActions } from '../set/set.store';
import { RemovedFiles } from './removed-files';

const api = { getRemovedOutputs: vi.fn(), takeAwayRemovedOutputs: vi.fn() };
let news: Subject<Action>;
let fixture: ComponentFixture<RemovedFiles>;
let page: HTMLElement;

beforeEach(() => {
  vi.resetAllMocks();
  news = new Subject();
  TestBed.configureTestingModule({
    providers: [
      provideZonelessChangeDetection(),
      providePlanStores(),
      { provide: Actions, useValue: news },
      { provide: Api, useValue: api },
    ],
  });
  const store = TestBed.inject(Store);
  store.dispatch(setActions.pageOpened({ setId: 's' }));
  store.dispatch(setActions.loaded({ set: sampleSet({ id: 's' }) }));
  fixture = TestBed.createComponent(RemovedFiles);
  page = fixture.nativeElement as HTMLElement;
});

async function removed(files: number): Promise<string> {
  const examples = ['web/a.jpg', 'web/b.jpg'].slice(0, files);
  api.getRemovedOutputs.mockReturnValue(of({ files, pictures: files, bytes: 1000 * files, examples }));
  news.next(setActions.eventCame({ event: { type: 'masters-removed', masterIds: ['m1'] } }));
  await fixture.whenStable();
  return page.querySelector('p')?.textContent?.replace(/\s+/g, ' ').trim() ?? '';
}
const press = async (label: string) => {
  [...page.querySelectorAll('button')].find(({ textContent }) => textContent === label)!.click();
  await fixture.whenStable();
};

it('says what lies there of pictures that were taken out, and takes it away or leaves it', async () => {
  await fixture.whenStable();
  expect(page.querySelector('p')).toBeNull();
  expect(await removed(0)).toBe('');
  expect(await removed(1)).toContain('1 file of a picture that was taken out of the set lies where it was made: web/a.jpg; 1 KB.');
  await press('Leave them');
  expect(page.querySelector('p')).toBeNull();
  expect(await removed(2)).toContain(
    '2 files of pictures that were taken out of the set lie where they were made, such as web/a.jpg; 2 KB.',
  );
  api.takeAwayRemovedOutputs.mockReturnValue(of({ files: 2, pictures: 2, bytes: 2000, examples: [] }));
  await press('Take them away');
  expect(api.takeAwayRemovedOutputs).toHaveBeenCalledWith({ setId: 's' });
  expect(page.querySelector('p')).toBeNull();
  // Nor does it stay silent at the next ones.
  expect(await removed(1)).toContain('1 file');
});
