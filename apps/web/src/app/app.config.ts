import { provideHttpClient, withInterceptors } from '@angular/common/http';
import { type ApplicationConfig } from '@angular/core';
import { provideRouter, TitleStrategy, withComponentInputBinding, withInMemoryScrolling } from '@angular/router';
import {
  ArrowDownOutline,
  ArrowUpOutline,
  BorderOutline,
  CheckOutline,
  CheckSquareOutline,
  CloseOutline,
  DeleteOutline,
  DownloadOutline,
  ExclamationCircleOutline,
  LeftOutline,
  LoadingOutline,
  MinusOutline,
  PlusOutline,
  RedoOutline,
  RightOutline,
  UndoOutline,
  WarningOutline,
} from '@ant-design/icons-angular/icons';
import { provideEffects } from '@ngrx/effects';
import { provideStore } from '@ngrx/store';
import { en_GB, provideNzI18n } from 'ng-zorro-antd/i18n';
import { provideNzIcons } from 'ng-zorro-antd/icon';
import { watchOverLoads } from './api/silence';
import { waitForDatabase } from './api/wait-for-database';
import * as arriveEffects from './arrive/arrive.effects';
import { arriveFeature } from './arrive/arrive.store';
import { handOverFeature } from './hand-over/hand-over.store';
import * as handOverEffects from './hand-over/hand-over.effects';
import { planFeature } from './plan/plan.store';
import * as planEffects from './plan/plan.effects';
import { presetsFeature } from './presets/presets.store';
import * as presetsEffects from './presets/presets.effects';
import * as runsEffects from './runs/runs.effects';
import { runsFeature } from './runs/runs.store';
import { routes } from './app.routes';
import { setFeature } from './set/set.store';
import * as setEffects from './set/set.effects';
import { setsFeature } from './sets/sets.store';
import * as setsEffects from './sets/sets.effects';
import { PageTitle } from './shell/page-title';
import { problemEffects } from './shell/problems';
import { serverEffects } from './shell/server-news';
import * as vetEffects from './vet/vet.effects';
import { vetFeature } from './vet/vet.store';

const icons = [
  BorderOutline,
  CheckOutline,
  CheckSquareOutline,
  CloseOutline,
  DeleteOutline,
  DownloadOutline,
  ExclamationCircleOutline,
  LoadingOutline,
  PlusOutline,
  ArrowDownOutline,
  ArrowUpOutline,
  LeftOutline,
  MinusOutline,
  RedoOutline,
  RightOutline,
  UndoOutline,
  WarningOutline,
];

export const appConfig: ApplicationConfig = {
  providers: [
    provideRouter(routes, withComponentInputBinding(), withInMemoryScrolling({ scrollPositionRestoration: 'enabled' })),
    { provide: TitleStrategy, useExisting: PageTitle },
    provideHttpClient(withInterceptors([watchOverLoads, waitForDatabase])),
    provideNzI18n(en_GB),
    provideNzIcons(icons),
    provideStore({
      [setsFeature.name]: setsFeature.reducer,
      [setFeature.name]: setFeature.reducer,
      [presetsFeature.name]: presetsFeature.reducer,
      [planFeature.name]: planFeature.reducer,
      [runsFeature.name]: runsFeature.reducer,
      [handOverFeature.name]: handOverFeature.reducer,
      [vetFeature.name]: vetFeature.reducer,
      [arriveFeature.name]: arriveFeature.reducer,
    }),
    provideEffects(
      setsEffects,
      setEffects,
      presetsEffects,
      planEffects,
      runsEffects,
      handOverEffects,
      vetEffects,
      arriveEffects,
      problemEffects,
      serverEffects,
    ),
  ],
};
