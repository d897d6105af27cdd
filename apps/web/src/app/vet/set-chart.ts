import {
  ChangeDetectionStrategy,
  Component,
  effect,
  type AfterViewInit,
  type ElementRef,
  input,
  type OnDestroy,
  output,
  viewChild,
} from '@angular/core';
import type { Master } from '@rundle/core';
import type { Plotly } from 'plotly.js-basic-dist-min';

/** Colours that are told apart by people who see few colours as well (Okabe and Ito, 2008), each with a shape of its own. */
const COLOURS = ['#0072b2', '#d55e00', '#009e73', '#cc79a7', '#56606a', '#e69f00'];
const SHAPES = ['circle', 'diamond', 'square', 'triangle-up', 'x', 'cross'];

/** Weight by megapixels, a point per picture, coloured by profile: what does not belong stands apart. */
@Component({
  selector: 'rd-set-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div #chart class="chart" role="img" aria-label="Weight by megapixels of all pictures, coloured by profile"></div>`,
  styles: `
    .chart {
      height: 340px;
    }
  `,
})
export class SetChart implements AfterViewInit, OnDestroy {
  readonly masters = input.required<readonly Master[]>();
  /** Emits the picture whose point was clicked. */
  readonly picked = output<string>();
  private readonly chart = viewChild.required<ElementRef<HTMLElement>>('chart');
  private plotly: Promise<Plotly> | undefined;
  private listening = false;
  private readonly watcher = new ResizeObserver(() => void this.draw(this.masters()));

  constructor() {
    effect(() => void this.draw(this.masters()));
  }

  ngAfterViewInit(): void {
    this.watcher.observe(this.chart().nativeElement);
  }

  ngOnDestroy(): void {
    this.watcher.disconnect();
    void this.plotly?.then((plotly) => plotly.purge(this.chart().nativeElement));
  }

  private async draw(masters: readonly Master[]): Promise<void> {
    this.plotly ??= import('plotly.js-basic-dist-min').then((module) => module.default);
    const plotly = await this.plotly;
    const element = this.chart().nativeElement;
    if (!element.isConnected) return;
    const drawn = await plotly.react(element, traces(masters), { ...LAYOUT, width: element.clientWidth }, CONFIG);
    if (this.listening) return;
    this.listening = true;
    drawn.on('plotly_click', ({ points }) => points[0] && this.picked.emit(points[0].customdata));
  }
}

const FONT = { family: '"Source Sans 3 Variable", sans-serif', size: 13, color: '#21282b' };
const AXIS = { gridcolor: '#dbd9d2', zeroline: false, rangemode: 'tozero' };
const LAYOUT = {
  ...{ font: FONT, height: 340, margin: { l: 62, r: 12, t: 8, b: 48 }, paper_bgcolor: 'rgba(0,0,0,0)', plot_bgcolor: '#fdfdfb' },
  xaxis: { ...AXIS, title: { text: 'Megapixels' } },
  yaxis: { ...AXIS, title: { text: 'Weight, MB' } },
  ...{ legend: { x: 1, xanchor: 'right', y: 1, bgcolor: 'rgba(253,253,251,0.85)' }, hovermode: 'closest', showlegend: true },
};
const CONFIG = { displayModeBar: false, showSendToCloud: false, responsive: false };

function traces(masters: readonly Master[]): object[] {
  const profiles = new Map<string, Master[]>();
  for (const master of masters) {
    if (!master.facts) continue;
    const profile = master.facts.profile ?? 'no profile';
    profiles.set(profile, [...(profiles.get(profile) ?? []), master]);
  }
  return [...profiles].map(([name, pictures], at) => ({
    ...{ type: 'scatter', mode: 'markers', name },
    x: pictures.map(({ facts }) => ((facts?.width ?? 0) * (facts?.height ?? 0)) / 1e6),
    y: pictures.map(({ bytes }) => bytes / 1e6),
    customdata: pictures.map(({ id }) => id),
    text: pictures.map(({ fileName }) => fileName),
    hovertemplate: '%{text}<br>%{x:.1f} megapixels, %{y:.1f} MB<extra></extra>',
    marker: { size: 9, color: COLOURS[at % COLOURS.length], symbol: SHAPES[at % SHAPES.length], opacity: 0.85 },
  }));
}
