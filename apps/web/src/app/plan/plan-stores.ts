import type { EnvironmentProviders } from '@angular/core';
import { provideStore } from '@ngrx/store';
import { presetsFeature } from '../presets/presets.store';
import { runsFeature } from '../runs/runs.store';
import { setFeature } from '../set/set.store';
import { planFeature } from './plan.store';

/** What components of Plan take their state from, for their tests. */
export const providePlanStores = (): EnvironmentProviders =>
  provideStore({
    [planFeature.name]: planFeature.reducer,
    [setFeature.name]: setFeature.reducer,
    [presetsFeature.name]: presetsFeature.reducer,
    [runsFeature.name]: runsFeature.reducer,
  });
