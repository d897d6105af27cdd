import '@angular/compiler';
import { Injector, runInInjectionContext } from '@angular/core';
import { Preset, type SampleFacts, stripOf } from '@rundle/core';
import { of } from 'rxjs';
import { expect, it, vi } from 'vitest';
import { Api } from '../api/api';
import { SampleApi } from '../api/sample';
import { StripSource } from './strip-source';

it('every tile of a strip gets its weight, also those that are the same file as another, which is measured once', () => {
  vi.stubGlobal('URL', { createObjectURL: () => 'blob:x', revokeObjectURL: () => {} });
  const measureOutput = vi.fn(() => of({ bytes: 54_321, width: 9, height: 9, quality: 80, judgement: null }));
  const facts = { expected: [] } as unknown as SampleFacts;
  const injector = Injector.create({
    providers: [
      { provide: Api, useValue: { measureOutput } },
      { provide: SampleApi, useValue: { ask: () => of({ facts, picture: new Blob() }) } },
    ],
  });
  const source = runInInjectionContext(injector, () => new StripSource());
  const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web' });
  const { tiles } = stripOf(preset, 'amount', 'radius');
  source.show({ masterId: 'm', decided: '', tiles, view: { kind: 'whole', within: { width: 9, height: 9 } } });
  expect([...source.tiles().values()].map(({ measured }) => measured?.bytes)).toEqual(Array(12).fill(54_321));
  // Three radii without sharpening are one file.
  expect(measureOutput).toHaveBeenCalledTimes(10);
  vi.unstubAllGlobals();
});
