import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { referenceFiles } from './reference-files';

it('documents that are made from the code are as the code has it; npm run reference makes them anew', async () => {
  for (const [path, text] of Object.entries(await referenceFiles()))
    expect(readFileSync(new URL(`../${path}`, import.meta.url), 'utf8'), path).toBe(text);
});
