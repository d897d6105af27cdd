import { inject, Injectable, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import type { Forecast, Preset } from '@rundle/core';
import { map, of, switchMap, timer } from 'rxjs';
import { Api } from '../api/api';
import { SampleChoice } from './sample-choice';

/** How long nothing has to change before the whole set is looked at, in ms. */
const REST = 250;

/** What the preset on the bench would make of the whole set that its sample is from. */
@Injectable()
export class SetForecast {
  private readonly api = inject(Api);
  private readonly choice = inject(SampleChoice);
  /** What is asked about. */
  readonly preset = signal<Preset | null>(null);
  private last: Forecast | null = null;
  private readonly loaded = rxResource({
    params: () => ({ setId: this.choice.setId(), preset: this.preset() }),
    stream: ({ params: { setId, preset } }) =>
      setId && preset
        ? timer(REST).pipe(
            switchMap(() => this.api.forecastPreset({ setId, body: preset })),
            map((forecast) => (this.last = forecast)),
          )
        : of(null),
  });

  /** The newest there is; the one before stands until then. */
  readonly figures = () => (this.loaded.hasValue() ? this.loaded.value() : this.loaded.error() ? null : this.last);
  readonly setTitle = this.choice.setTitle;
}
