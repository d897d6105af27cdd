import { ChangeDetectionStrategy, Component, effect, type ElementRef, input, type OnDestroy, output, viewChild } from '@angular/core';
import type { Plotly } from 'plotly.js-basic-dist-min';

/** A line of a chart; its name stands at its end. */
export interface CurveLine {
  name: string;
  points: readonly { id: string; x: number; y: number; says: string }[];
}

export interface CurveAxis {
  title: string;
  isLog: boolean;
  /** Levels with a name, drawn across the chart. */
  levels?: readonly { at: number; name: string }[];
}

/** Told apart by people who see few colours as well (Okabe and Ito, 2008). */
const COLOURS = ['#0072b2', '#d55e00', '#009e73', '#cc79a7'];
/** 1, 2 and 5 of every power of ten that weights and differences have. */
const LOG_TICKS = [-1, 0, 1, 2, 3, 4].flatMap((power) => [1, 2, 5].map((digit) => digit * 10 ** power));
/** Of the plot without its axes, and of a name, px. */
const PLOT_HEIGHT = 220;
const NAME_HEIGHT = 16;
const FONT = { family: '"Source Sans 3 Variable", sans-serif', size: 13, color: '#1d2226' };

/** A few lines with their names beside them; a point that is pressed is told. What it shows stands in a table beside it, too. */
@Component({
  selector: 'rd-curve-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div #chart class="chart" role="img" [attr.aria-label]="label()"></div>`,
  styles: `
    .chart {
      width: 100%;
      height: 300px;
    }
  `,
})
export class CurveChart implements OnDestroy {
  readonly label = input.required<string>();
  readonly lines = input.required<readonly CurveLine[]>();
  readonly across = input.required<CurveAxis>();
  readonly up = input.required<CurveAxis>();
  readonly picked = output<string>();
  private readonly chart = viewChild.required<ElementRef<HTMLElement>>('chart');
  private plotly: Promise<Plotly> | undefined;
  private isListening = false;

  constructor() {
    effect(() => void this.draw(this.lines(), this.across(), this.up()));
  }

  ngOnDestroy(): void {
    void this.plotly?.then((plotly) => plotly.purge(this.chart().nativeElement));
  }

  private async draw(lines: readonly CurveLine[], across: CurveAxis, up: CurveAxis): Promise<void> {
    this.plotly ??= import('plotly.js-basic-dist-min').then((module) => module.default);
    const plotly = await this.plotly;
    const element = this.chart().nativeElement;
    if (!element.isConnected) return;
    const traces = lines.map(({ name, points }, at) => ({
      x: points.map(({ x }) => x),
      y: points.map(({ y }) => y),
      customdata: points.map(({ id }) => id),
      text: points.map(({ says }) => says),
      hovertemplate: `%{text}<extra>${name}</extra>`,
      mode: 'lines+markers',
      line: { color: COLOURS[at % COLOURS.length], width: 2 },
      marker: { size: 9 },
    }));
    const log = (axis: CurveAxis, value: number) => (axis.isLog ? Math.log10(value) : value);
    const heights = lines.flatMap(({ points }) => points.map(({ y }) => log(up, y)));
    const perPixel = (Math.max(...heights) - Math.min(...heights)) / PLOT_HEIGHT || 1;
    const ends = lines.flatMap(({ name, points }, at) => {
      const last = points.at(-1);
      return last ? [{ name, x: log(across, last.x), y: log(up, last.y), color: COLOURS[at % COLOURS.length] }] : [];
    });
    let lowest = Infinity;
    const names = ends
      .toSorted((a, b) => b.y - a.y)
      .map(({ name, x, y, color }) => {
        // Names do not lie over one another.
        const above = Math.min(y / perPixel, lowest - NAME_HEIGHT);
        lowest = above;
        return { x, y, yshift: above - y / perPixel, text: name, xanchor: 'left', xshift: 8, showarrow: false, font: { ...FONT, color } };
      });
    const levels = (up.levels ?? []).map(({ at, name }) => ({
      xref: 'paper',
      x: 0,
      y: log(up, at),
      text: name,
      xanchor: 'left',
      yanchor: 'bottom',
      showarrow: false,
      font: { ...FONT, color: '#56606a' },
    }));
    const shapes = (up.levels ?? []).map(({ at }) => ({
      type: 'line',
      xref: 'paper',
      x0: 0,
      x1: 1,
      y0: at,
      y1: at,
      line: { color: '#a9b0b5', width: 1, dash: 'dot' },
    }));
    const axis = ({ title, isLog }: CurveAxis) => ({
      title: { text: title },
      type: isLog ? 'log' : 'linear',
      ...(isLog ? { tickvals: LOG_TICKS } : {}),
      gridcolor: '#e3e1da',
      zeroline: false,
    });
    const layout = {
      margin: { l: 64, r: 76, t: 10, b: 46 },
      font: FONT,
      paper_bgcolor: 'transparent',
      plot_bgcolor: 'transparent',
      showlegend: false,
      width: element.clientWidth,
      height: 300,
      xaxis: axis(across),
      yaxis: axis(up),
      annotations: [...names, ...levels],
      shapes,
    };
    const drawn = await plotly.react(element, traces, layout, { displayModeBar: false, responsive: false });
    if (this.isListening) return;
    this.isListening = true;
    drawn.on('plotly_click', ({ points }) => points[0] && this.picked.emit(String(points[0].customdata)));
  }
}
