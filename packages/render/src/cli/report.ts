import { counted, type Finding, kilobytes, type Measures, type Problem } from '@rundle/core';

/** One line of `--json`: what became of one output. */
export interface OutputEvent {
  event: 'output';
  master: string;
  preset: string;
  /** Which of the files that the preset makes of a picture, where it makes several. */
  part?: string;
  status: 'done' | 'failed' | 'skipped' | 'planned';
  output?: string;
  width?: number;
  height?: number;
  bytes?: number;
  /** Only of file types with loss. */
  quality?: number;
  /** What was measured: clipped colours and overshoot. */
  measures?: Measures;
  warnings?: Pick<Finding, 'code' | 'message'>[];
  error?: Pick<Problem, 'code' | 'message'>;
}

/** To the beginning of the line, which is emptied (ECMA-48, EL). */
const CLEAR = '\r\u001b[K';

/** Writes events to standard output as JSON lines, or as sentences; problems of the call go to standard error. */
export class Report {
  private readonly counts = { done: 0, failed: 0, skipped: 0, planned: 0 };
  private bytesOut = 0;
  private readonly begun = performance.now();

  /** All that has been told, in that order. */
  readonly outputs: OutputEvent[] = [];

  /** @param toDo how many outputs are to be made, to tell the pace on a terminal; 0: it is not told */
  constructor(
    private readonly json: boolean,
    private readonly toDo = 0,
  ) {}

  output(event: OutputEvent): void {
    this.counts[event.status]++;
    this.outputs.push(event);
    this.bytesOut += event.bytes ?? 0;
    if (this.json) return this.line(JSON.stringify(event));
    const made = event.output ? `${event.output}  ${event.width} x ${event.height} px  ${kilobytes(event.bytes ?? 0)}` : event.master;
    this.line(`${event.status.padEnd(8)}${made}${event.error ? `  ${event.error.message}` : ''}`);
    for (const { message } of event.warnings ?? []) this.line(`        ${message}`);
    this.tellPace();
  }

  /** What became of a file of the call before. @param to null: it was taken away */
  earlier(from: string, to: string | null): void {
    if (this.json) return this.line(JSON.stringify({ event: 'earlier', from, to }));
    this.line(to === null ? `gone    ${from}` : `renamed ${from} to ${to}`);
  }

  /** One line below all others, written over and over: count, pace, time left. */
  private tellPace(): void {
    const { done, failed } = this.counts;
    const ended = Math.min(this.toDo, done + failed);
    if (this.toDo === 0 || ended === 0) return;
    const pace = ended / ((performance.now() - this.begun) / 1000);
    const left = Math.round((this.toDo - ended) / pace);
    process.stderr.write(
      `${CLEAR}${ended === this.toDo ? '' : `${ended} of ${this.toDo}, ${pace.toFixed(1)} a second, about ${left} s left`}`,
    );
  }

  /** @param guessed whether the weights of a plan are guesses */
  summary(bytesIn: number, guessed = false): void {
    const { planned, ...counts } = this.counts;
    const seconds = Math.round((performance.now() - this.begun) / 10) / 100;
    const summary = {
      event: 'summary',
      ...counts,
      ...(planned ? { planned } : {}),
      ...(guessed ? { guessed } : {}),
      bytesIn,
      bytesOut: this.bytesOut,
      seconds,
    };
    if (this.json) return this.line(JSON.stringify(summary));
    const words = Object.entries(this.counts).filter(([, count]) => count > 0);
    this.line(
      `${words.map(([status, count]) => `${count} ${status}`).join(', ') || 'nothing to do'}; ${kilobytes(bytesIn)} in, ${kilobytes(this.bytesOut)} out, ${seconds} s${guessed ? '; weights are guessed, since no picture was looked at (--quick)' : ''}`,
    );
  }

  sheet(file: string, pictures: number): void {
    this.line(this.json ? JSON.stringify({ event: 'sheet', output: file, pictures }) : `done    ${file}  ${counted(pictures, 'picture')}`);
  }

  inspection(facts: object): void {
    this.line(this.json ? JSON.stringify(facts) : JSON.stringify(facts, null, 2));
  }

  /** 0 all done, 3 some failed. */
  exitCode(): 0 | 3 {
    return this.counts.failed > 0 ? 3 : 0;
  }

  static problem({ file, field, message }: Problem): void {
    process.stderr.write(`${file ? `${file}: ` : ''}${field ? `${field}: ` : ''}${message}\n`);
  }

  /** What is worth knowing of a call as a whole. */
  static note(text: string): void {
    process.stderr.write(`${text}\n`);
  }

  private line(text: string): void {
    if (this.toDo) process.stderr.write(CLEAR);
    process.stdout.write(`${text}\n`);
  }
}
