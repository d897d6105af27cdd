import { ChangeDetectionStrategy, Component, computed, DestroyRef, type ElementRef, inject, input, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { activeTone, type Histogram, histogramOf, type PixelRung, type Preset } from '@rundle/core';
import type { Plotly } from 'plotly.js-basic-dist-min';
import { catchError, combineLatest, debounceTime, map, of, switchMap } from 'rxjs';
import { SampleApi } from '../api/sample';
import { SAME_DATA } from '../look/asked';
import { rasterOf } from '../look/raster-of';

/** How large the picture is that is counted, px. */
const WITHIN = { width: 640, height: 640 };
/** How long nothing has to change before it is counted anew, ms. */
const REST = 250;

interface Counted {
  key: string;
  before: Histogram;
  after: Histogram;
}

/** How the tones of the sample lie before and after the Tone rung, and what would be clipped. */
@Component({
  selector: 'rd-tone-histogram',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div #chart class="chart" role="img" [attr.aria-label]="said() || 'Tones of the sample'" [class.stale]="isStale()"></div>
    <p class="soft" role="status">{{ isStale() ? awaited() : said() }}</p>
  `,
  styles: `
    .chart {
      height: 120px;
    }
    .stale {
      opacity: 0.4;
    }
    p {
      min-height: 42px;
      margin: 0;
      font-size: 13px;
    }
  `,
})
export class ToneHistogram {
  readonly preset = input.required<Preset>();
  readonly masterId = input.required<string>();
  /** What was decided about the picture itself. */
  readonly decided = input.required<string>();
  private readonly samples = inject(SampleApi);
  private readonly chart = viewChild.required<ElementRef<HTMLElement>>('chart');
  private readonly counted = signal<Counted | null>(null);
  private readonly failed = signal('');
  private readonly wanted = computed(
    () => {
      const { size, tone, colour } = this.preset();
      const key = JSON.stringify([this.masterId(), this.decided(), size, tone, colour]);
      return { key, masterId: this.masterId(), preset: this.preset(), decided: this.decided() };
    },
    { equal: (a, b) => SAME_DATA.equal(a.key, b.key) },
  );
  protected readonly isStale = computed(() => this.counted()?.key !== this.wanted().key);
  protected readonly awaited = computed(() =>
    this.failed() === this.wanted().key ? 'Its tones could not be counted.' : 'Being counted …',
  );
  protected readonly said = computed(() => {
    const counted = this.counted();
    if (!counted) return '';
    const { before, after } = counted;
    const ends = ({ dark, bright }: Histogram) => `${percent(dark)} at black, ${percent(bright)} at white`;
    return activeTone(this.preset().tone) || ends(before) !== ends(after)
      ? `Of the picture made small: ${ends(after)}; before ${ends(before)}.`
      : `Of the picture made small: ${ends(before)}.`;
  });
  private plotly: Promise<Plotly> | undefined;

  constructor() {
    const look = (upTo: PixelRung) =>
      switchMap(({ masterId, preset, decided }: { masterId: string; preset: Preset; decided: string }) =>
        this.samples.ask({ masterId, preset, decided, upTo, view: { kind: 'whole', within: WITHIN }, finished: false }),
      );
    toObservable(this.wanted)
      .pipe(
        debounceTime(REST),
        switchMap((wanted) =>
          combineLatest([of(wanted).pipe(look('size')), of(wanted).pipe(look('tone'))]).pipe(
            switchMap(async ([size, tone]) => [await rasterOf(size.picture, true), await rasterOf(tone.picture, true)] as const),
            map(([before, after]) => ({ key: wanted.key, before: histogramOf(before), after: histogramOf(after) })),
            // The sample itself tells what is wrong.
            catchError(() => {
              this.failed.set(wanted.key);
              return of(null);
            }),
          ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((counted) => {
        this.counted.set(counted);
        if (counted) void this.draw(counted);
      });
    inject(DestroyRef).onDestroy(() => void this.plotly?.then((plotly) => plotly.purge(this.chart().nativeElement)));
  }

  private async draw({ before, after }: Counted): Promise<void> {
    this.plotly ??= import('plotly.js-basic-dist-min').then((module) => module.default);
    const plotly = await this.plotly;
    const element = this.chart().nativeElement;
    if (!element.isConnected || element.clientWidth === 0) return;
    const traces = [lineOf('before', before, '#8b9094', 'tozeroy'), lineOf('after', after, '#0f5866', 'none')];
    await plotly.react(element, traces, { ...LAYOUT, width: element.clientWidth }, { displayModeBar: false, staticPlot: true });
  }
}

const percent = (share: number): string => `${Math.round(share * 1000) / 10} %`;

/** How much of all channels lies at each value, as its square root, so that a sky does not hide all else. */
function lineOf(name: string, { channels }: Histogram, color: string, fill: string): object {
  const y = Array.from({ length: 256 }, (_, value) => Math.sqrt(channels.reduce((sum, counts) => sum + counts[value]!, 0)));
  return { type: 'scatter', mode: 'lines', name, x: y.map((_, value) => value), y, line: { color, width: 1.5 }, fill };
}

const LAYOUT = {
  font: { family: '"Source Sans 3 Variable", sans-serif', size: 12, color: '#21282b' },
  height: 120,
  margin: { l: 4, r: 4, t: 4, b: 20 },
  paper_bgcolor: 'rgba(0,0,0,0)',
  plot_bgcolor: '#fdfdfb',
  xaxis: { range: [0, 255], tickvals: [0, 64, 128, 192, 255], zeroline: false, gridcolor: '#dbd9d2' },
  yaxis: { visible: false, rangemode: 'tozero' },
  legend: { orientation: 'h', x: 1, xanchor: 'right', y: 1 },
  showlegend: true,
};
