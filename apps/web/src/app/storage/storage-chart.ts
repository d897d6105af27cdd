import { ChangeDetectionStrategy, Component, effect, type ElementRef, input, type OnDestroy, viewChild } from '@angular/core';
import { weight } from '@rundle/core';

/** What uses space, as bars. */
@Component({
  selector: 'rd-storage-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div #chart class="chart" role="img" aria-label="What uses space; the table has the figures" data-axes="MB"></div>`,
  styles: `
    @import '../look/chart-frame';
    .chart {
      .chart-frame();
      height: 282px;
    }
  `,
})
export class StorageChart implements OnDestroy {
  readonly bars = input.required<readonly { name: string; bytes: number }[]>();
  private readonly chart = viewChild.required<ElementRef<HTMLElement>>('chart');
  private readonly plotly = import('plotly.js-basic-dist-min').then((module) => module.default);

  constructor() {
    effect(() => void this.draw(this.bars(), this.chart().nativeElement));
  }

  ngOnDestroy(): void {
    void this.plotly.then((plotly) => plotly.purge(this.chart().nativeElement));
  }

  private async draw(bars: readonly { name: string; bytes: number }[], element: HTMLElement): Promise<void> {
    const plotly = await this.plotly;
    const colour = (name: string) => getComputedStyle(element).getPropertyValue(name).trim();
    const rising = bars.toReversed();
    await plotly.react(
      element,
      [
        {
          type: 'bar',
          orientation: 'h',
          x: rising.map(({ bytes }) => bytes / 1e6),
          y: rising.map(({ name }) => name),
          text: rising.map(({ bytes }) => weight(bytes)),
          textposition: 'outside',
          cliponaxis: false,
          hoverinfo: 'none',
          marker: { color: colour('--petrol') },
        },
      ],
      {
        margin: { t: 4, r: 76, b: 46, l: 8 },
        xaxis: { title: { text: 'MB' }, rangemode: 'tozero', fixedrange: true, gridcolor: colour('--line') },
        yaxis: { automargin: true, fixedrange: true, ticksuffix: '  ' },
        font: { family: getComputedStyle(element).fontFamily, size: 14, color: colour('--ink') },
        paper_bgcolor: 'transparent',
        plot_bgcolor: 'transparent',
        bargap: 0.35,
      },
      { displayModeBar: false, responsive: true, showSendToCloud: false },
    );
  }
}
