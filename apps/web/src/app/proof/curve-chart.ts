import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import type { Plotly } from 'plotly.js-basic-dist-min';
import { dragging } from '../bench/dragging';
import { clamped, placeOf, rangeOf, valueAt } from './curve-scale';

/** A line of a chart; its name stands at its end. */
export interface CurveLine {
  name: string;
  points: readonly { id: string; x: number; y: number; says: string }[];
}

export interface CurveAxis {
  title: string;
  isLog: boolean;
  /** What it shows until there are values. */
  first: readonly [number, number];
  /** Levels with a name, drawn across the chart. */
  levels?: readonly { at: number; name: string }[];
}

/** A line right across a chart that can be moved. */
export interface MovableLine {
  id: string;
  /** The axis whose value it stands at: upright for the one across. */
  axis: 'across' | 'up';
  at: number;
  name: string;
  says: string;
}

/** Told apart by people who see few colours as well (Okabe and Ito, 2008). */
const COLOURS = ['#0072b2', '#d55e00', '#009e73', '#cc79a7'];
/** 1, 2 and 5 of every power of ten that weights and differences have. */
const LOG_TICKS = [-1, 0, 1, 2, 3, 4].flatMap((power) => [1, 2, 5].map((digit) => digit * 10 ** power));
/** Of the plot without its axes, and of a name, px. */
const HEIGHT = 380;
const MARGIN = { l: 64, r: 76, t: 10, b: 46 };
/** How far an arrow key moves a line, as a share of its axis. */
const STEP = 0.02;
const NAME_HEIGHT = 16;
/** Width of what can be grasped of a line, px. */
const GRASP = 16;
const FONT = { family: '"Source Sans 3 Variable", sans-serif', size: 13, color: '#1d2226' };

/** A few lines with their names beside them; a point that is pressed is told. What it shows stands in a table beside it, too. */
@Component({
  selector: 'rd-curve-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div #chart class="chart" role="img" [attr.aria-label]="label()" [attr.data-axes]="across().title + ' / ' + up().title"></div>
    @for (line of placed(); track line.id) {
      <div
        class="line"
        [class.upright]="line.axis === 'across'"
        role="slider"
        tabindex="0"
        [attr.data-line]="line.id"
        [attr.aria-label]="line.name"
        [attr.aria-orientation]="line.axis === 'across' ? 'horizontal' : 'vertical'"
        [attr.aria-valuenow]="line.at"
        [attr.aria-valuetext]="line.says"
        [attr.aria-valuemin]="line.from"
        [attr.aria-valuemax]="line.to"
        [style.left.px]="line.left"
        [style.top.px]="line.top"
        [style.width.px]="line.width"
        [style.height.px]="line.height"
        (pointerdown)="drag($event, line)"
        (keydown)="step($event, line)"
      >
        <span>{{ line.says }}</span>
      </div>
    }
  `,
  styleUrl: './curve-chart.less',
})
export class CurveChart {
  readonly label = input.required<string>();
  readonly lines = input.required<readonly CurveLine[]>();
  readonly across = input.required<CurveAxis>();
  readonly up = input.required<CurveAxis>();
  readonly movable = input<readonly MovableLine[]>([]);
  readonly picked = output<string>();
  readonly moved = output<{ id: string; at: number }>();
  private readonly chart = viewChild.required<ElementRef<HTMLElement>>('chart');
  private readonly width = signal(0);
  private readonly ranges = computed(() => {
    const points = this.lines().flatMap((line) => line.points);
    return {
      across: rangeOf(
        points.map(({ x }) => x),
        this.across().isLog,
      ),
      up: rangeOf(
        points.map(({ y }) => y),
        this.up().isLog,
      ),
    };
  });
  /** Where the lines lie, CSS px: each a strip that can be grasped, with the line in its middle. */
  protected readonly placed = computed(() => {
    const [inner, { across, up }] = [this.inner(), this.ranges()];
    if (!across || !up || inner.width <= 0) return [];
    return this.movable().map((line) => {
      const range = line.axis === 'across' ? across : up;
      const share = placeOf(range, line.at);
      const box =
        line.axis === 'across'
          ? { left: MARGIN.l + share * inner.width - GRASP / 2, top: MARGIN.t, width: GRASP, height: inner.height }
          : { left: MARGIN.l, top: MARGIN.t + (1 - share) * inner.height - GRASP / 2, width: inner.width, height: GRASP };
      return { ...line, ...box, from: valueAt(range, 0), to: valueAt(range, 1) };
    });
  });
  private plotly: Promise<Plotly> | undefined;
  private isListening = false;

  constructor() {
    const observer = new ResizeObserver(() => this.width.set(this.chart().nativeElement.clientWidth));
    effect(() => observer.observe(this.chart().nativeElement));
    effect(() => void this.draw(this.lines(), this.across(), this.up(), this.width()));
    inject(DestroyRef).onDestroy(() => {
      observer.disconnect();
      void this.plotly?.then((plotly) => plotly.purge(this.chart().nativeElement));
    });
  }

  private inner(): { width: number; height: number } {
    return { width: this.width() - MARGIN.l - MARGIN.r, height: HEIGHT - MARGIN.t - MARGIN.b };
  }

  protected drag(event: PointerEvent, { id, axis, at }: MovableLine): void {
    if (event.button !== 0) return;
    const [range, inner] = [this.ranges()[axis], this.inner()];
    if (!range) return;
    (event.currentTarget as HTMLElement).focus();
    const from = placeOf(range, at);
    dragging(event, (dx, dy) => this.tell(id, axis, from + (axis === 'across' ? dx / inner.width : -dy / inner.height)));
    event.preventDefault();
  }

  protected step(event: KeyboardEvent, { id, axis, at }: MovableLine): void {
    const range = this.ranges()[axis];
    const by = { ArrowRight: STEP, ArrowUp: STEP, ArrowLeft: -STEP, ArrowDown: -STEP }[event.key];
    if (!range || by === undefined) return;
    event.preventDefault();
    this.tell(id, axis, placeOf(range, at) + by);
  }

  private tell(id: string, axis: MovableLine['axis'], share: number): void {
    const range = this.ranges()[axis];
    if (range) this.moved.emit({ id, at: valueAt(range, clamped(share)) });
  }

  private async draw(lines: readonly CurveLine[], across: CurveAxis, up: CurveAxis, width: number): Promise<void> {
    this.plotly ??= import('plotly.js-basic-dist-min').then((module) => module.default);
    const plotly = await this.plotly;
    const element = this.chart().nativeElement;
    if (!element.isConnected || width === 0) return;
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
    const perPixel = (Math.max(...heights) - Math.min(...heights)) / (HEIGHT - MARGIN.t - MARGIN.b) || 1;
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
    const ranges = this.ranges();
    const axis = ({ title, isLog, first }: CurveAxis, known: ReturnType<typeof rangeOf>) => {
      const { from, to } = known ?? rangeOf(first, isLog)!;
      return {
        title: { text: title },
        type: isLog ? 'log' : 'linear',
        ...(isLog ? { tickvals: LOG_TICKS } : {}),
        range: [from, to],
        fixedrange: true,
        gridcolor: '#e3e1da',
        zeroline: false,
      };
    };
    const layout = {
      margin: MARGIN,
      font: FONT,
      paper_bgcolor: 'transparent',
      plot_bgcolor: 'transparent',
      showlegend: false,
      width,
      height: HEIGHT,
      dragmode: false,
      xaxis: axis(across, ranges.across),
      yaxis: axis(up, ranges.up),
      annotations: [...names, ...levels],
      shapes,
    };
    const drawn = await plotly.react(element, traces, layout, { displayModeBar: false, responsive: false });
    if (this.isListening) return;
    this.isListening = true;
    drawn.on('plotly_click', ({ points }) => points[0] && this.picked.emit(String(points[0].customdata)));
  }
}
