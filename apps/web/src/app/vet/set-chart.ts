import {
  ChangeDetectionStrategy,
  Component,
  computed,
  type AfterViewInit,
  type ElementRef,
  input,
  type OnDestroy,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import type { Master } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { combineLatest, Subject, throttleTime } from 'rxjs';
import type { Plotly } from 'plotly.js-basic-dist-min';
import { type Dot, dotsOf } from './chart-dots';

/** Colours that are told apart by people who see few colours as well (Okabe and Ito, 2008), each with a shape of its own. */
const COLOURS = ['#0072b2', '#d55e00', '#009e73', '#cc79a7', '#56606a', '#e69f00'];
const SHAPES = ['circle', 'diamond', 'square', 'triangle-up', 'x', 'cross'];

/** In the table pictures of about one size and weight are one row: so many steps each way. */
const FINE = { across: 40, up: 40 };

/** Between two drawings at least, in ms. */
const PAUSE = 1000;

/** Weight by megapixels, coloured by profile: what does not belong stands apart. Pictures that lie close together are one dot. */
@Component({
  selector: 'rd-set-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    <div
      #chart
      class="chart"
      role="img"
      aria-label="Weight by megapixels of all pictures, coloured by profile"
      data-axes="Megapixels / weight, MB"
      [hidden]="asTable()"
    ></div>
    @if (asTable()) {
      <div class="figures-of" tabindex="0" role="region" aria-label="Pictures by profile, megapixels and weight">
        <table>
          <thead>
            <tr>
              <th scope="col">Profile</th>
              <th scope="col" class="number">Megapixels</th>
              <th scope="col" class="number">MB</th>
              <th scope="col" class="number">Pictures</th>
              <th scope="col"><span class="quiet">Show them</span></th>
            </tr>
          </thead>
          <tbody>
            @for (row of rows(); track $index) {
              <tr>
                <td>{{ row.profile }}</td>
                <td class="number figures">{{ row.megapixels.toFixed(1) }}</td>
                <td class="number figures">{{ row.megabytes.toFixed(1) }}</td>
                <td class="number figures">{{ row.masters.length }}</td>
                <td>
                  <button
                    nz-button
                    nzType="text"
                    nzSize="small"
                    type="button"
                    [attr.aria-label]="'Show ' + (row.masters.length === 1 ? row.masters[0]?.fileName : row.masters.length + ' pictures')"
                    (click)="show(row)"
                  >
                    Show
                  </button>
                </td>
              </tr>
            }
          </tbody>
        </table>
      </div>
    }
    <button nz-button nzSize="small" type="button" [attr.aria-pressed]="asTable()" (click)="asTable.set(!asTable())">As a table</button>
  `,
  styles: `
    @import '../look/chart-frame';
    .chart {
      .chart-frame();
      height: 400px;
      &[hidden] {
        display: none;
      }
    }
    .figures-of {
      height: 400px;
      overflow-y: auto;
    }
    table {
      width: 100%;
      border-collapse: collapse;
      font-size: 14px;
    }
    th {
      position: sticky;
      top: 0;
      padding: 2px 10px 2px 0;
      font-weight: 400;
      text-align: left;
      color: var(--ink-soft);
      background: var(--sheet);
    }
    td {
      padding: 0 10px 0 0;
      border-top: 1px solid var(--line);
    }
    td:first-child {
      white-space: nowrap;
    }
    .number {
      text-align: right;
    }
  `,
})
export class SetChart implements AfterViewInit, OnDestroy {
  readonly masters = input.required<readonly Master[]>();
  /** Emits the pictures whose dot was clicked. */
  readonly picked = output<string[]>();
  private readonly chart = viewChild.required<ElementRef<HTMLElement>>('chart');
  protected readonly asTable = signal(false);
  /** The dots as rows, by profile and then by size. */
  protected readonly rows = computed(() =>
    dotsOf(this.masters(), FINE).sort(
      (a, b) => a.profile.localeCompare(b.profile) || a.megapixels - b.megapixels || a.megabytes - b.megabytes,
    ),
  );
  /** It is large: it is loaded while the pictures are. */
  private readonly plotly: Promise<Plotly> = import('plotly.js-basic-dist-min').then((module) => module.default);
  private listening = false;
  private readonly resized = new Subject<void>();
  private readonly watcher = new ResizeObserver(() => this.resized.next());

  constructor() {
    // Nothing is drawn before its room is known. While a large set arrives, its pictures change ten times a second.
    combineLatest([toObservable(this.masters), this.resized])
      .pipe(throttleTime(PAUSE, undefined, { leading: true, trailing: true }), takeUntilDestroyed())
      .subscribe(([masters]) => void this.draw(masters));
  }

  ngAfterViewInit(): void {
    this.watcher.observe(this.chart().nativeElement);
  }

  ngOnDestroy(): void {
    this.watcher.disconnect();
    void this.plotly.then((plotly) => plotly.purge(this.chart().nativeElement));
  }

  protected show({ masters }: Dot): void {
    this.picked.emit(masters.map(({ id }) => id));
  }

  private async draw(masters: readonly Master[]): Promise<void> {
    const plotly = await this.plotly;
    const element = this.chart().nativeElement;
    // Out of sight it has no size.
    if (!element.isConnected || element.clientWidth === 0) return;
    const cells = { across: Math.ceil(element.clientWidth / ROOM), up: Math.ceil(element.clientHeight / ROOM) };
    const drawn = await plotly.react(element, traces(dotsOf(masters, cells)), { ...LAYOUT, width: element.clientWidth }, CONFIG);
    if (this.listening) return;
    this.listening = true;
    drawn.on('plotly_click', ({ points }) => points[0] && this.picked.emit(points[0].customdata));
  }
}

const FONT = { family: '"Source Sans 3 Variable", sans-serif', size: 13, color: '#21282b' };
const AXIS = { gridcolor: '#dbd9d2', zeroline: false, rangemode: 'tozero' };
const LAYOUT = {
  font: FONT,
  height: 400,
  margin: { l: 62, r: 12, t: 8, b: 110 },
  paper_bgcolor: 'rgba(0,0,0,0)',
  plot_bgcolor: '#fdfdfb',
  xaxis: { ...AXIS, title: { text: 'Megapixels' } },
  yaxis: { ...AXIS, title: { text: 'Weight, MB' } },
  // Below the plot, where it covers no picture.
  legend: { orientation: 'h', x: 0, y: -0.24, yanchor: 'top' },
  hovermode: 'closest',
  showlegend: true,
  hoverlabel: { font: { ...FONT, color: '#fdfdfb' }, bgcolor: FONT.color, bordercolor: FONT.color },
};
const CONFIG = { displayModeBar: false, showSendToCloud: false, responsive: false };

/** Room of a dot beside and above another, in CSS pixels. */
const ROOM = 7;

function traces(all: readonly Dot[]): object[] {
  const profiles = [...new Set(all.map(({ profile }) => profile))];
  return profiles.map((name, at) =>
    traceOf(
      name,
      at,
      all.filter(({ profile }) => profile === name),
    ),
  );
}

function traceOf(name: string, at: number, dots: readonly Dot[]): object {
  return {
    type: 'scatter',
    mode: 'markers',
    name,
    x: dots.map(({ megapixels }) => megapixels),
    y: dots.map(({ megabytes }) => megabytes),
    customdata: dots.map(({ masters }) => masters.map(({ id }) => id)),
    text: dots.map(({ masters }) => (masters.length === 1 ? masters[0]?.fileName : `${masters.length} pictures, about`)),
    hovertemplate: '%{text}<br>%{x:.1f} megapixels, %{y:.1f} MB<extra></extra>',
    marker: {
      color: COLOURS[at % COLOURS.length],
      symbol: SHAPES[at % SHAPES.length],
      opacity: 0.85,
      // The area grows with the pictures, up to a size that leaves its neighbours to be seen.
      size: dots.map(({ masters }) => Math.min(22, 8 * Math.sqrt(1 + masters.length / 8))),
    },
  };
}
