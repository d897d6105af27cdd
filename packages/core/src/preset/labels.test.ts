import { expect, it } from 'vitest';
import { ENDPOINTS } from '../api/endpoints';
import { StudioDetails } from '../metadata/studio';
import { HouseRules } from '../vet/house-rules';
import { labelAt } from './labels';
import { fieldProblems } from './parse';
import { Preset } from './schema';

it('finds what people call a field, in whatever it is wrapped', () => {
  expect(labelAt(Preset, 'file.quality')).toBe('Quality');
  expect(labelAt(HouseRules, 'mostPixels')).toBe('Longest side at most');
  expect(labelAt(HouseRules, 'types.0')).toBe('File types');
  expect(labelAt(ENDPOINTS.changeSet.body, 'rights.creator')).toBe('Creator');
  expect(labelAt(ENDPOINTS.createWatermark.body, 'text')).toBe('Text');
  expect(labelAt(StudioDetails, 'nothing.there')).toBeUndefined();
});

it('puts it into the sentence of what is wrong', () => {
  const input = { title: 'Strict', mostPixels: 0 };
  expect(fieldProblems(HouseRules.safeParse(input).error!, input, 'field', HouseRules)).toEqual([
    { code: 'field', field: 'mostPixels', message: 'Longest side at most: a whole number from 1 to 10,000,000,000, not 0.' },
  ]);
});
