import { expect, it } from 'vitest';
import { programOf } from './new-version';

it('a page is known by the name of its program, however it is loaded', () => {
  const page = (script: string) => `<html><body><rd-root></rd-root>${script}</body></html>`;
  expect(programOf(page('<link rel="modulepreload" href="chunk-A.js"><script src="main-3F2K.js" type="module"></script>'))).toBe(
    'main-3F2K.js',
  );
  expect(programOf(page('<script type="module" src="main-9ZZ.js"></script>'))).toBe('main-9ZZ.js');
  expect(programOf(page('<script src="/other.js"></script>'))).toBeNull();
});
