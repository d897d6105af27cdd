import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { finding, NONE_EARLIER } from '@rundle/core';
import { expect, it } from 'vitest';
import { sampleSet } from '../set/sample-master';
import { setActions, setFeature } from '../set/set.store';
import { PlanNotices } from './plan-notices';
import { planActions } from './plan.store';
import { providePlanStores } from './plan-stores';
import { planView } from './sample-plan';

it('offer once to make again what an earlier engine made, and to leave it after all', async () => {
  TestBed.configureTestingModule({
    providers: [provideZonelessChangeDetection(), providePlanStores()],
  });
  const store = TestBed.inject(Store);
  store.dispatch(setActions.pageOpened({ setId: 's' }));
  store.dispatch(setActions.loaded({ set: sampleSet({ id: 's' }) }));
  const fixture = TestBed.createComponent(PlanNotices);
  const page = fixture.nativeElement as HTMLElement;
  const says = async (...notices: ReturnType<typeof finding>[]) => {
    store.dispatch(planActions.planned({ basis: null, view: planView([], { notices }) }));
    await fixture.whenStable();
    return [...page.querySelectorAll('p')].map((line) => line.textContent?.replace(/\s+/g, ' ').trim());
  };
  const press = () => page.querySelector('button')!.click();
  const isRemade = () => store.selectSignal(setFeature.selectSet)()?.remake;

  const version = finding('earlier-version', 'Web: 2 files that are out were made by version 1.');
  expect(await says(version, finding('engine-offer', '3 files stay.'))).toEqual([version.message, '3 files stay. Make them again']);
  press();
  expect(isRemade()).toBe(true);
  expect(await says(finding('earlier-engine', '3 files will be made again.'))).toEqual(['3 files will be made again. Leave them']);
  press();
  expect(isRemade()).toBe(false);
  // Those that cannot be held against a recipe of today are due whatever was pressed.
  expect(await says(finding('earlier-engine', '3 files will be made again.'))).toEqual(['3 files will be made again.']);
});

it('say what becomes of earlier files, ask once about older copies, and let both be kept', async () => {
  TestBed.configureTestingModule({
    providers: [provideZonelessChangeDetection(), providePlanStores()],
  });
  const store = TestBed.inject(Store);
  store.dispatch(setActions.pageOpened({ setId: 's' }));
  store.dispatch(setActions.loaded({ set: sampleSet({ id: 's' }) }));
  const names = [
    { from: 'web/b.jpg', to: 'web/a.jpg' },
    { from: 'web/c.jpg', to: null },
  ];
  const earlier = { ...NONE_EARLIER, renamed: 2, removed: 1, copies: 3, names };
  store.dispatch(planActions.planned({ basis: null, view: planView([], { earlier }) }));
  const fixture = TestBed.createComponent(PlanNotices);
  const page = fixture.nativeElement as HTMLElement;
  const lines = async () => {
    await fixture.whenStable();
    return [...page.querySelectorAll('summary, li, p')].map((line) => line.textContent?.replace(/\s+/g, ' ').trim());
  };
  const press = (label: string) => [...page.querySelectorAll('button')].find(({ textContent }) => textContent?.trim() === label)!.click();
  expect(await lines()).toEqual([
    '2 files of an earlier name or place get their new one; 1 file of a picture that was removed goes.',
    'web/b.jpg → web/a.jpg',
    'web/c.jpg goes',
    '3 older files lie beside their newer selves, under another name. Take them awayLeave them',
  ]);
  press('Keep them');
  expect(store.selectSignal(setFeature.selectSet)()?.keepsEarlier).toBe(true);
  expect((await lines()).slice(0, 3)).toEqual([
    '2 files of an earlier name or place stay; 1 file of a picture that was removed stays.',
    'web/b.jpg',
    'web/c.jpg',
  ]);
  press('Take them away');
  expect((await lines())[0]).toContain('3 files made again since stay.');
  press('Let them give way');
  expect(await lines()).toHaveLength(3);
  expect((await lines())[0]).toContain('3 files made again since go.');
});
