import * as z from 'zod';
import type { ProblemCode } from '../codes/problem-codes';
import { StudioDetails } from '../metadata/studio';
import { Preset } from '../preset/schema';
import { HouseRules } from '../vet/house-rules';
import type { Endpoint } from './endpoint';
import { FollowedSets } from './events';
import { OfferedFileType } from './file-types';
import { Health } from './health';
import { FromMachine, FromMachineResult, MachineFolder } from './machine';
import { StoredPreset } from './presets';
import { HandOverView, PlanView, PresetChoice, Run, RunDetail } from './runs';
import {
  Id,
  MarksChange,
  MasterDetail,
  MasterPage,
  NewSet,
  SetChange,
  SetDetail,
  SetSummary,
  SomeMasters,
  TwinsWanted,
  UploadResult,
} from './sets';
import { StoredHouseRules, VetView } from './vet';
import { NewWatermark, StoredWatermark } from './watermarks';

/** Masters that one call lists at most: what a screen asks for in one go. */
const MASTERS_AT_ONCE = 500;

/** Every call of the HTTP interface. Uploads follow a standard of their own: see {@link UPLOADS_PATH}. */
export const ENDPOINTS = {
  // Sets
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

  // Masters
  listMasters: {
    method: 'get',
    path: '/api/sets/{setId}/masters',
    summary: 'A part of the masters of a set, in set order',
    query: z.object({
      from: z.coerce.number<number>().int().min(0).default(0),
      count: z.coerce.number<number>().int().min(1).max(MASTERS_AT_ONCE).default(MASTERS_AT_ONCE),
    }),
    answer: MasterPage,
    errors: ['not-found'],
  },
  getMaster: {
    method: 'get',
    path: '/api/masters/{masterId}',
    summary: 'All that is known of a master',
    answer: MasterDetail,
    errors: ['not-found'],
  },
  getThumbnail: {
    method: 'get',
    path: '/api/masters/{masterId}/thumbnail',
    summary: 'A small sRGB picture',
    query: z.object({
      content: z.string().max(64).optional().meta({ description: 'As the master says; then browsers keep it for good' }),
    }),
    media: 'image/jpeg',
    errors: ['not-found'],
  },
  getPicture: {
    method: 'get',
    path: '/api/masters/{masterId}/picture',
    summary: 'The master itself where a browser can show it, else its small picture',
    media: 'image/*',
    errors: ['not-found'],
  },
  addTwins: {
    method: 'post',
    path: '/api/sets/{setId}/masters/again',
    summary: 'Brings in files again whose content is in the set already',
    body: TwinsWanted,
    answer: UploadResult,
    status: 201,
    errors: ['not-found'],
  },
  changeMarks: {
    method: 'put',
    path: '/api/sets/{setId}/marks',
    summary: 'Stars, choice, tags and overrides of any number of pictures',
    body: MarksChange,
    errors: ['not-found'],
  },
  changeOrder: {
    method: 'put',
    path: '/api/sets/{setId}/order',
    summary: 'The order of the set, which is that of the counter; pictures not named come behind',
    body: SomeMasters,
    errors: ['not-found'],
  },
  removeMasters: {
    method: 'post',
    path: '/api/sets/{setId}/masters/remove',
    summary: 'Removes pictures from a set, into its bin',
    body: SomeMasters,
    errors: ['run-under-way'],
  },
  restoreMasters: {
    method: 'post',
    path: '/api/sets/{setId}/masters/restore',
    summary: 'Restores pictures from the bin, where they were',
    body: SomeMasters,
  },
  readMastersAgain: {
    method: 'post',
    path: '/api/sets/{setId}/masters/read-again',
    summary: 'Reads pictures again whose reading was given up, or whose metadata could not be read',
    body: SomeMasters,
    errors: ['not-found'],
  },

  // Folders of the machine
  listMachineFolder: {
    method: 'get',
    path: '/api/machine/folders',
    summary: 'Folders of the machine that pictures may be brought in from',
    query: z.object({ path: z.string().max(4096).optional() }),
    answer: MachineFolder,
    errors: ['outside', 'no-folder'],
  },
  addFromMachine: {
    method: 'post',
    path: '/api/sets/{setId}/masters/from-machine',
    summary: 'Brings in the pictures of a folder of the machine; they stay where they are',
    body: FromMachine,
    answer: FromMachineResult,
    errors: ['not-found', 'outside', 'no-folder', 'too-many'],
  },
  checkMachineFiles: {
    method: 'post',
    path: '/api/sets/{setId}/masters/look-again',
    summary: 'Looks whether masters on the machine have changed, vanished or come back',
    errors: ['not-found'],
  },

  // Vet, Plan, runs
  vetSet: {
    method: 'post',
    path: '/api/sets/{setId}/vet',
    summary: 'What would go wrong with these presets, worst first',
    body: PresetChoice.extend({ presetIds: z.array(Id).max(100) }),
    answer: VetView,
    errors: ['not-found'],
  },
  planSet: {
    method: 'post',
    path: '/api/sets/{setId}/plan',
    summary: 'What would come out; writes nothing',
    body: PresetChoice,
    answer: PlanView,
    errors: ['not-found', 'still-arriving'],
  },
  startRun: {
    method: 'post',
    path: '/api/sets/{setId}/runs',
    summary: 'Starts a run',
    body: PresetChoice,
    answer: RunDetail,
    status: 201,
    errors: ['not-found', 'still-arriving', 'run-under-way', 'nothing-to-do'],
  },
  listRuns: {
    method: 'get',
    path: '/api/sets/{setId}/runs',
    summary: 'The runs of a set, newest first',
    answer: z.array(Run),
  },
  getRun: {
    method: 'get',
    path: '/api/runs/{runId}',
    summary: 'A run with its outputs',
    answer: RunDetail,
    errors: ['not-found'],
  },
  cancelRun: {
    method: 'post',
    path: '/api/runs/{runId}/cancel',
    summary: 'Cancels what has not begun; what is done stays',
    answer: Run,
    errors: ['not-found'],
  },

  // Hand over
  listOutputs: {
    method: 'get',
    path: '/api/sets/{setId}/outputs',
    summary: 'What can be handed over',
    answer: HandOverView,
    errors: ['not-found'],
  },
  getZip: {
    method: 'get',
    path: '/api/sets/{setId}/outputs.zip',
    summary: 'All outputs, a folder per preset',
    media: 'application/zip',
    errors: ['not-found', 'nothing-there', 'output-missing'],
  },
  getOutputFile: {
    method: 'get',
    path: '/api/outputs/{outputId}/file',
    summary: 'One output',
    media: 'image/*',
    errors: ['not-found'],
  },

  // Events
  events: {
    method: 'get',
    path: '/api/events',
    summary: 'What changes, as server-sent events, each a StreamEvent; the first one tells the id of the stream',
    media: 'text/event-stream',
  },
  followSets: {
    method: 'put',
    path: '/api/events/{streamId}',
    summary: 'Says which sets an event stream follows from now on',
    body: FollowedSets,
    errors: ['not-found'],
  },

  // Presets
  listPresets: {
    method: 'get',
    path: '/api/presets',
    summary: 'All presets',
    answer: z.array(StoredPreset),
  },
  createPreset: {
    method: 'post',
    path: '/api/presets',
    summary: 'Makes a preset',
    body: Preset,
    answer: StoredPreset,
    status: 201,
  },
  getPreset: {
    method: 'get',
    path: '/api/presets/{presetId}',
    summary: 'A preset',
    answer: StoredPreset,
    errors: ['not-found'],
  },
  changePreset: {
    method: 'put',
    path: '/api/presets/{presetId}',
    summary: 'Changes a preset: makes its next version; outputs keep the version that made them',
    body: Preset,
    ifMatch: true,
    answer: StoredPreset,
    errors: ['not-found', 'changed-meanwhile'],
  },
  deletePreset: {
    method: 'delete',
    path: '/api/presets/{presetId}',
    summary: 'Deletes a preset; what it made stays',
    errors: ['not-found'],
  },

  // House rules
  listHouseRules: {
    method: 'get',
    path: '/api/house-rules',
    summary: 'House rules of all receivers',
    answer: z.array(StoredHouseRules),
  },
  createHouseRules: {
    method: 'post',
    path: '/api/house-rules',
    summary: 'Writes house rules down',
    body: HouseRules,
    answer: StoredHouseRules,
    status: 201,
  },
  changeHouseRules: {
    method: 'put',
    path: '/api/house-rules/{houseRulesId}',
    summary: 'Changes house rules',
    body: HouseRules,
    answer: StoredHouseRules,
    errors: ['not-found'],
  },
  deleteHouseRules: {
    method: 'delete',
    path: '/api/house-rules/{houseRulesId}',
    summary: 'Deletes house rules; sets that had them have none',
    errors: ['not-found'],
  },

  // Studio
  getStudio: {
    method: 'get',
    path: '/api/studio',
    summary: 'The studio’s details, which fill missing rights',
    answer: StudioDetails,
  },
  changeStudio: {
    method: 'put',
    path: '/api/studio',
    summary: 'Changes the studio’s details',
    body: StudioDetails,
    answer: StudioDetails,
  },
  listWatermarks: {
    method: 'get',
    path: '/api/watermarks',
    summary: 'The studio’s watermarks',
    answer: z.array(StoredWatermark),
  },
  createWatermark: {
    method: 'post',
    path: '/api/watermarks',
    summary: 'Adds a watermark; a worker checks it by drawing it once',
    body: NewWatermark,
    answer: StoredWatermark,
    status: 201,
  },
  deleteWatermark: {
    method: 'delete',
    path: '/api/watermarks/{watermarkId}',
    summary: 'Deletes a watermark; what carries it stays',
    errors: ['not-found'],
  },

  // The server itself
  listFileTypes: {
    method: 'get',
    path: '/api/file-types',
    summary: 'The file types that outputs can have, and whether all workers can write them',
    answer: z.array(OfferedFileType),
  },
  getHealth: {
    method: 'get',
    path: '/api/health',
    summary: 'Whether the database, the queue, the workers and the disk are well',
    answer: Health,
  },
} as const satisfies Record<string, Endpoint>;

/** Errors that any call may return, beside its own. */
export const COMMON_ERRORS = [
  'invalid',
  'bad-request',
  'cross-site',
  'foreign-host',
  'too-slow',
  'database-away',
  'internal',
] as const satisfies readonly ProblemCode[];

export type Endpoints = typeof ENDPOINTS;
export type EndpointName = keyof Endpoints;

/** Where files are uploaded to, by the tus protocol 1.0.0 (tus.io). */
export const UPLOADS_PATH = '/api/uploads';
