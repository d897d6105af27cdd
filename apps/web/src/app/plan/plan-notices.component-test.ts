import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { finding } from '@rundle/core';
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
    store.dispatch(planActions.planned({ view: planView([], { notices }) }));
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
