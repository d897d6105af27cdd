import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { PlannedOutput } from '@rundle/core';
import { describe, expect, it } from 'vitest';
import type { Cell } from './plan.store';
import { RunCell } from './run-cell';

const planned: PlannedOutput = {
  status: 'planned',
  masterId: 'm1',
  presetId: 'p1',
  folder: 'web',
  fileName: 'boat_2048.jpg',
  width: 2048,
  height: 1365,
  expectedBytes: 410_000,
  replaces: false,
  warnings: [],
};
const output = {
  id: 'o1',
  runId: 'r1',
  masterId: 'm1',
  presetId: 'p1',
  presetVersion: 1,
  folder: 'web',
  fileName: 'boat_2048.jpg',
  width: 2048,
  height: 1365,
  expectedBytes: 410_000,
  warnings: [],
};
const notMade = { bytes: null, quality: null, measures: null };
const of = (more: object): Cell => ({ kind: 'output', ...output, ...notMade, error: null, ...more }) as unknown as Cell;

/** What is shown for a cell. */
async function shown(cell: Cell | null): Promise<HTMLElement> {
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  const fixture = TestBed.createComponent(RunCell);
  fixture.componentRef.setInput('cell', cell);
  await fixture.whenStable();
  return fixture.nativeElement as HTMLElement;
}
/** Its words, without the room between them, which is left to the styles. */
const wordsOf = (page: HTMLElement) => page.textContent.replace(/\s+/g, '');
const textOf = async (cell: Cell | null) => wordsOf(await shown(cell));

describe('a cell of the run sheet', () => {
  it('says what is expected, and whether a file gives way', async () => {
    expect(await textOf({ kind: 'planned', ...planned })).toBe('boat_2048.jpg2048×1365about410KB');
    TestBed.resetTestingModule();
    expect(await textOf({ kind: 'planned', ...planned, replaces: true })).toContain('replacesthelastone');
  });

  it('says what is happening, then what came out, with a link to the file only when there is one', async () => {
    const waiting = await shown(of({ state: 'planned' }));
    expect(waiting.textContent).toContain('waiting');
    expect(waiting.querySelector('a')).toBeNull();
    TestBed.resetTestingModule();
    expect(await textOf(of({ state: 'running' }))).toContain('rendering');
    TestBed.resetTestingModule();
    const done = await shown(of({ state: 'done', bytes: 398_000, quality: 80 }));
    expect(wordsOf(done)).toContain('done,398KBq80');
    expect(done.querySelector('a')?.getAttribute('href')).toBe('/api/outputs/o1/file');
    TestBed.resetTestingModule();
    // A type without loss has no quality to tell.
    expect(await textOf(of({ state: 'done', bytes: 398_000 }))).not.toContain('q80');
  });

  it('says why there is no file, and that a preset is not for a picture', async () => {
    const error = { code: 'damaged' as const, message: 'Cut off.' };
    expect(await textOf(of({ state: 'failed', error }))).toBe('boat_2048.jpg2048×1365Failed:Cutoff.');
    TestBed.resetTestingModule();
    expect(await textOf({ kind: 'planned', status: 'failed', masterId: 'm1', presetId: 'p1', error })).toBe('Failed:Cutoff.');
    TestBed.resetTestingModule();
    expect(await textOf(null)).toBe('notforthisone');
  });
});
