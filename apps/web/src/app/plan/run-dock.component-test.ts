import { provideZonelessChangeDetection } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { type Action, Store } from '@ngrx/store';
import { NONE_EARLIER, type Output, type PlannedOutput } from '@rundle/core';
import { beforeEach, describe, expect, it } from 'vitest';
import { presetsActions } from '../presets/presets.store';
import { master, sampleSet } from '../set/sample-master';
import { setActions } from '../set/set.store';
import { planActions, selectBasis } from './plan.store';
import { providePlanStores } from './plan-stores';
import { RunDock } from './run-dock';
import { planned, planView, runDetail, sampleMade, sampleOutput } from './sample-plan';

let fixture: ComponentFixture<RunDock>;
let sent: Action[];

beforeEach(() => {
  TestBed.configureTestingModule({
    providers: [provideZonelessChangeDetection(), provideRouter([]), providePlanStores()],
  });
  const store = TestBed.inject(Store);
  store.dispatch(setActions.pageOpened({ setId: 's' }));
  store.dispatch(setActions.loaded({ set: sampleSet({ id: 's' }) }));
  store.dispatch(setActions.mastersLoaded({ setId: 's', masters: [master(1), master(2), master(3)], from: 0, total: 3 }));
  store.dispatch(presetsActions.loaded({ presets: [] }));
  store.dispatch(planActions.lastRunLoaded({ run: null }));
  fixture = TestBed.createComponent(RunDock);
  sent = [];
  const dispatch = store.dispatch.bind(store);
  store.dispatch = ((action: Action) => {
    sent.push(action);
    dispatch(action);
  }) as typeof store.dispatch;
});

async function after(...actions: Action[]): Promise<HTMLElement> {
  for (const action of actions) TestBed.inject(Store).dispatch(action);
  await fixture.whenStable();
  return fixture.nativeElement as HTMLElement;
}
const textIn = (page: HTMLElement, css: string) => page.querySelector(css)?.textContent?.trim();
const buttons = (page: HTMLElement) => [...page.querySelectorAll('button, a')].map((one) => one.textContent?.trim());
const planOf = (outputs: PlannedOutput[], more: Parameters<typeof planView>[1] = {}) =>
  planActions.planned({ basis: TestBed.inject(Store).selectSignal(selectBasis)(), view: planView(outputs, more) });
const runOf = (outputs: Output[], more: Parameters<typeof runDetail>[1] = {}) =>
  planActions.lastRunLoaded({ run: runDetail(outputs, more) });

describe('the dock', () => {
  it('says what pressing the button does: how many, how heavy, how long, and what goes away', async () => {
    const old = planned(2, { replaces: true, made: sampleMade, stale: 'preset', expectedBytes: 400_000 });
    const page = await after(planOf([planned(1, { expectedBytes: 600_000 }), old], { timeMs: 12_000 }));
    expect(textIn(page, 'strong')).toBe('2 files, about 1.0 MB, about 12 s');
    expect(textIn(page, '.detail')).toBe('1 of 1 is out of date: preset changed; replaces 1 file of 20 June');
    expect(textIn(page, '.run')).toBe('Run: 2 files, 1.0 MB, replaces 1');
    page.querySelector<HTMLElement>('.run')!.click();
    expect(sent.at(-1)).toEqual(planActions.runPressed({ only: {} }));
  });

  it('says what becomes of earlier files, also where nothing is to be made, unless they are kept', async () => {
    const earlier = { ...NONE_EARLIER, renamed: 4, removed: 1, copies: 3 };
    const page = await after(planOf([planned(1)], { earlier }));
    expect(textIn(page, '.detail')).toContain('earlier files: rename 4, remove 1');
    await after(planOf([], { earlier }));
    expect([textIn(page, 'strong'), textIn(page, '.run')]).toEqual([
      'Nothing to make; earlier files: rename 4, remove 1',
      'Run: rename 4, remove 1',
    ]);
    await after(setActions.loaded({ set: sampleSet({ id: 's', copies: 'go' }) }));
    // Of another choice nothing is known until it is planned.
    expect([textIn(page, 'strong'), textIn(page, '.run')]).toEqual(['Working out what will come out …', 'Run']);
    expect(page.querySelector<HTMLButtonElement>('.run')!.disabled).toBe(true);
    await after(planOf([], { earlier }));
    expect(textIn(page, '.run')).toBe('Run: rename 4, remove 4');
    await after(setActions.loaded({ set: sampleSet({ id: 's', keepsEarlier: true }) }));
    await after(planOf([], { earlier }));
    expect(textIn(page, 'strong')).toBe('Nothing to run');
  });

  it('says how many pictures are still being weighed, while they are', async () => {
    const page = await after(planOf([planned(1), planned(2)], { rough: 2 }));
    expect(textIn(page, '.detail')).toContain('2 pictures still being weighed, their weights are rough');
    await after(planOf([], { id: 'plan-2', since: 'plan-1', rough: 1 }));
    expect(textIn(page, '.detail')).toContain('1 picture still being weighed, its weight is rough');
    await after(planOf([], { id: 'plan-3', since: 'plan-2' }));
    expect(textIn(page, '.detail')).not.toContain('weighed');
  });

  it('follows a run: pause, go on, cancel; and does what was pressed to that run', async () => {
    const outputs = [sampleOutput(1, { state: 'done', bytes: 700 }), sampleOutput(2, { state: 'running' }), sampleOutput(3)];
    const page = await after(planOf([planned(1), planned(2), planned(3)]), runOf(outputs));
    expect(textIn(page, 'strong')).toBe('1 of 3');
    expect(textIn(page, '.detail')).toBe('now 2.jpg');
    expect(buttons(page)).toEqual(['Pause', 'Cancel']);
    page.querySelector<HTMLElement>('button')!.click();
    expect(sent.at(-1)).toEqual(planActions.pausePressed({ runId: 'run' }));
    await after(runOf(outputs, { state: 'paused' }));
    expect(textIn(page, 'strong')).toBe('1 of 3, paused');
    expect(buttons(page)).toEqual(['Go on', 'Cancel']);
    await after(runOf(outputs, { stopping: true }));
    expect(textIn(page, 'strong')).toBe('1 of 3, cancelled: what had been begun is coming to its end');
    expect([...page.querySelectorAll('button')].every(({ disabled }) => disabled)).toBe(true);
  });

  it('says what came of it, and tries what failed again, only that', async () => {
    const error = { code: 'disk-full', message: 'The disk is full.' } as const;
    const ended = [
      sampleOutput(1, { state: 'done', bytes: 700, quality: 80 }),
      sampleOutput(2, { state: 'failed', error, presetVersion: 0 }),
    ];
    const page = await after(planOf([planned(1), planned(2)]), runOf(ended), runOf(ended, { state: 'done' }));
    expect(buttons(page)).toContain('Record');
    const again = [...page.querySelectorAll('button')].find((one) => one.textContent?.includes('Try the 1 failed again'))!;
    again.click();
    expect(sent.at(-1)).toEqual(planActions.runPressed({ only: { pairs: [{ masterId: 'm2', presetId: 'p1', part: '' }] } }));
  });

  it('runs nothing where nothing can be written', async () => {
    const placeProblem = { code: 'disk-full', message: 'Cannot be written to.' } as const;
    const page = await after(planOf([planned(1)], { placeProblem }));
    expect(page.querySelector<HTMLButtonElement>('.run')!.disabled).toBe(true);
  });
});
