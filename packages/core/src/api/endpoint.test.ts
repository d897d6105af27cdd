import { expect, it } from 'vitest';
import { addressOf } from './address-of';
import type { CallOf, InputOf } from './endpoint';
import { ENDPOINTS, type Endpoints } from './endpoints';

it('addresses hold the values of parameters and query as RFC 3986 wants them', () => {
  expect(addressOf('listSets', {})).toBe('/api/sets');
  expect(addressOf('listMasters', { setId: 'a/b?', query: { from: 500 } })).toBe('/api/sets/a%2Fb%3F/masters?from=500');
  expect(addressOf('listMachineFolder', { query: { path: '/a b&c' } })).toBe('/api/machine/folders?path=%2Fa+b%26c');
  expect(addressOf('getThumbnail', { masterId: 'm', query: { content: undefined } })).toBe('/api/masters/m/thumbnail');
});

it('a wrong body, a missing parameter and an unknown field do not compile', () => {
  const right: InputOf<Endpoints['changeSet']> = { setId: 's', body: { title: 'Title' } };
  // @ts-expect-error a title is text
  const wrongBody: InputOf<Endpoints['changeSet']> = { setId: 's', body: { title: 1 } };
  // @ts-expect-error whose title?
  const noParameter: InputOf<Endpoints['changeSet']> = { body: { title: 'Title' } };
  const handled = (call: CallOf<Endpoints['changeSet']>): string | undefined => call.body.title;
  // @ts-expect-error no such field comes in
  const unknownField = (call: CallOf<Endpoints['changeSet']>): unknown => call.body.name;
  expect([right, wrongBody, noParameter, handled, unknownField]).toHaveLength(5);
});

it('no two endpoints share a method and a path', () => {
  const all = Object.values(ENDPOINTS).map(({ method, path }) => `${method} ${path.replace(/\{\w+\}/g, '{}')}`);
  expect(new Set(all).size).toBe(all.length);
});
