import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { provideStore, Store } from '@ngrx/store';
import { HouseRules, Preset, type StoredPreset } from '@rundle/core';
import { expect, it } from 'vitest';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { sampleSet } from './sample-master';
import { setActions, setFeature } from './set.store';
import { vetActions, vetFeature } from '../vet/vet.store';
import { HouseRemedies } from './house-remedies';

it('keep each rule that presets break by one press, for this set, and are gone once it is kept', async () => {
  TestBed.configureTestingModule({
    providers: [
      provideZonelessChangeDetection(),
      provideStore({
        [setFeature.name]: setFeature.reducer,
        [presetsFeature.name]: presetsFeature.reducer,
        [vetFeature.name]: vetFeature.reducer,
      }),
    ],
  });
  const store = TestBed.inject(Store);
  const stored = (id: string, px: number) =>
    ({ id, version: 1, preset: Preset.parse({ kind: 'rundle.preset', version: 1, title: id, size: { px } }) }) as StoredPreset;
  const rules = HouseRules.parse({ title: 'Lantern Post', mostPixels: 1000, mostBytes: 300_000 });
  store.dispatch(setActions.pageOpened({ setId: 's' }));
  store.dispatch(setActions.loaded({ set: sampleSet({ id: 's', presetIds: ['large', 'small'], houseRulesId: 'h' }) }));
  store.dispatch(presetsActions.loaded({ presets: [stored('large', 2048), stored('small', 800)] }));
  store.dispatch(vetActions.houseRulesLoaded({ list: [{ id: 'h', rules }] as never }));
  const fixture = TestBed.createComponent(HouseRemedies);
  fixture.componentRef.setInput('codes', ['house-long', 'house-heavy', 'no-profile']);
  const page = fixture.nativeElement as HTMLElement;
  const buttons = async () => {
    await fixture.whenStable();
    return [...page.querySelectorAll('button')].map(({ textContent }) => textContent?.trim());
  };
  expect(await buttons()).toEqual(['At most 1000 px, for Lantern Post', 'At most 300 KB, for Lantern Post']);
  page.querySelector('button')!.click();
  // Only the preset that breaks the rule is varied.
  expect(store.selectSignal(setFeature.selectSet)()?.once).toEqual({ large: { px: 1000 } });
  expect(await buttons()).toEqual(['At most 300 KB, for Lantern Post']);
  page.querySelector('button')!.click();
  expect(store.selectSignal(setFeature.selectSet)()?.once).toEqual({
    large: { px: 1000, ceiling: 300_000 },
    small: { ceiling: 300_000 },
  });
  expect(await buttons()).toEqual([]);
});
