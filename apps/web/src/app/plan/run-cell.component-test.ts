import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { describe, expect, it } from 'vitest';
import { type Cell, cellOf } from './cells';
import { RunCell } from './run-cell';
import { planned, sampleOutput } from './sample-plan';

/** The words that are shown for a cell, without the room between them, which is left to the styles. */
async function textOf(cell: Cell | null): Promise<string> {
  TestBed.resetTestingModule();
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  const fixture = TestBed.createComponent(RunCell);
  fixture.componentRef.setInput('cell', cell);
  await fixture.whenStable();
  return (fixture.nativeElement as HTMLElement).textContent.replace(/\s+/g, '');
}
const ofRun = (more: object) => textOf(cellOf(null, sampleOutput(1, more), 'open', 1));
const look = { code: 'clipped', severity: 'look', message: 'Colours moved.' } as const;

describe('a cell of the run sheet', () => {
  it('says in one line what it will be called and what is expected, that there is something to look at, and why what is out is out of date', async () => {
    expect(await textOf(cellOf(planned(1, { expectedBytes: 410_000 }), null, 'past', 1))).toBe('1.jpg900×600about410KB');
    expect(await textOf(cellOf(planned(1, { warnings: [look], stale: 'credit' }), null, 'past', 1))).toBe(
      '1.jpg900×600,lookhere,outofdate:creditchangedabout1KB',
    );
  });

  it('says what is happening, then what came out', async () => {
    expect(await ofRun({ state: 'planned' })).toContain('waiting');
    expect(await ofRun({ state: 'running' })).toContain('rendering');
    expect(await ofRun({ state: 'done', bytes: 398_000, quality: 80 })).toBe('1.jpg900×600,done,398KB');
    expect(await ofRun({ state: 'cancelled' })).toBe('1.jpgcancelled');
  });

  it('says why there can be no file, and why a preset is not for a picture', async () => {
    const error = { code: 'damaged', message: 'Cut off.' } as const;
    expect(await ofRun({ state: 'failed', error })).toBe('1.jpgcannotbemadeCutoff.');
    expect(await textOf(cellOf({ status: 'failed', masterId: 'm1', presetId: 'p1', part: '', error }, null, 'past', 1))).toBe(
      'cannotbemadeCutoff.',
    );
    const reason = { code: 'not-for', severity: 'note', message: 'Only for 4 stars and up.' } as const;
    expect(await textOf(cellOf({ status: 'not-for', masterId: 'm1', presetId: 'p1', part: '', reason }, null, 'past', 1))).toBe(
      'Onlyfor4starsandup.',
    );
    expect(await textOf(null)).toBe('');
  });
});
