import * as z from 'zod';
import { Forecast, NewName } from '../../plan/forecast';
import { Preset } from '../../preset/schema';
import type { Endpoint } from '../endpoint';
import { NewSet, SetChange, SetDetail, SetSummary } from '../sets';

/** Calls about sets. */
export const SETS_ENDPOINTS = {
  listSets: {
    method: 'get',
    path: '/api/sets',
    summary: 'All sets, newest first',
    answer: z.array(SetSummary),
  },
  createSet: {
    method: 'post',
    path: '/api/sets',
    summary: 'Makes an empty set',
    body: NewSet,
    answer: SetDetail,
    status: 201,
  },
  getSet: {
    method: 'get',
    path: '/api/sets/{setId}',
    summary: 'A set, without its masters',
    answer: SetDetail,
    errors: ['not-found'],
  },
  changeSet: {
    method: 'patch',
    path: '/api/sets/{setId}',
    summary: 'Renames a set, keeps its filter, chosen presets, house rules and rights details',
    body: SetChange,
    answer: SetDetail,
    errors: ['not-found', 'run-under-way'],
  },
  duplicateSet: {
    method: 'post',
    path: '/api/sets/{setId}/duplicate',
    summary: 'A second set with the same pictures, marks and order; no file is copied',
    answer: SetDetail,
    status: 201,
    errors: ['not-found'],
  },
  forecastPreset: {
    method: 'post',
    path: '/api/sets/{setId}/forecast',
    summary: 'What a preset, saved or not, would make of the whole set, in a few figures',
    body: Preset,
    answer: Forecast,
    errors: ['not-found'],
  },
  listNewNames: {
    method: 'post',
    path: '/api/sets/{setId}/new-names',
    summary: 'The names that a preset, saved or not, would give to the files of a set',
    body: Preset,
    answer: z.array(NewName),
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
