import { computed, inject, Injectable, signal } from '@angular/core';
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
  private readonly last = signal<{ asked: string; forecast: Forecast } | null>(null);
  private readonly asked = computed(() => JSON.stringify([this.choice.setId(), this.preset()]));
  private readonly loaded = rxResource({
    params: () => ({ setId: this.choice.setId(), preset: this.preset(), asked: this.asked() }),
    stream: ({ params: { setId, preset, asked } }) =>
      setId && preset
        ? timer(REST).pipe(
            switchMap(() => this.api.forecastPreset({ setId, body: preset })),
            map((forecast) => {
              this.last.set({ asked, forecast });
              return forecast;
            }),
          )
        : of(null),
  });

  /** The newest there is, or null where there is none; the one before stands, dimmed, until the next has come. */
  readonly figures = computed(() => (this.loaded.error() ? null : (this.last()?.forecast ?? null)));
  /** Whether the figures are of the preset and set that are asked about. */
  readonly isCurrent = computed(() => this.last()?.asked === this.asked());
  readonly setTitle = this.choice.setTitle;
}
