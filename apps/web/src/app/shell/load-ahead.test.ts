import type { Routes } from '@angular/router';
import { expect, it } from 'vitest';
import { loadAhead } from './load-ahead';

it('loads the pages that an address leads to, and no other', () => {
  const loaded: string[] = [];
  const page = (name: string) => () => (loaded.push(name), Promise.reject(new Error('offline')));
  const routes: Routes = [
    { path: '', pathMatch: 'full', redirectTo: 'sets' },
    { path: 'sets', loadComponent: page('sets') },
    {
      path: 'sets/:setId',
      loadComponent: page('set'),
      children: [
        { path: '', pathMatch: 'full', redirectTo: 'gather' },
        { path: 'gather', loadComponent: page('gather') },
        { path: 'plan', loadComponent: page('plan') },
      ],
    },
    { path: '**', loadComponent: page('none') },
  ];
  const of = (path: string) => {
    loaded.length = 0;
    loadAhead([{ path: '', children: routes }], path);
    return [...loaded];
  };
  expect(of('/sets/1/gather')).toEqual(['set', 'gather']);
  expect(of('/sets')).toEqual(['sets']);
  expect(of('/presets')).toEqual([]);
});
