import * as z from 'zod';
import type { Endpoint } from '../endpoint';
import { FolderUse, FromMachine, FromMachineResult, MachineFolder, NewFolder } from '../machine';
import { Preset } from '../../preset/schema';
import { FEED_SIDES, FeedTrip, FeedTripWish } from '../../proof/feed';
import { FileFields, Measured, MeasureWish, SampleWish } from '../samples';
import { DecisionsFile } from '../../decisions/decisions-file';
import { MarksChange, MarksChanged, MasterDetail, MatchedDecisions, MasterPage, SomeMasters, TwinsWanted, UploadResult } from '../sets';

/** Masters that one call lists at most: what a screen asks for in one go. */
const MASTERS_AT_ONCE = 500;

/** Calls about the pictures of a set, and the folders of the machine that they may come from. */
export const MASTERS_ENDPOINTS = {
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
    query: z.object({
      content: z.string().max(64).optional().meta({ description: 'As the master says, so that another is asked for anew' }),
    }),
    media: 'image/*',
    errors: ['not-found'],
  },
  getSample: {
    method: 'post',
    path: '/api/masters/{masterId}/sample',
    summary: 'A part of what a preset makes of a master, or all of it, as PNG; what is known of it stands in the header `rundle-sample`',
    body: SampleWish,
    media: 'image/png',
    errors: ['not-found', 'no-sample'],
  },
  measureOutput: {
    method: 'post',
    path: '/api/masters/{masterId}/measured',
    summary:
      'What the whole file of a preset, saved or not, weighs, and how it differs from the unencoded picture: each is encoded once, and kept',
    body: MeasureWish,
    answer: Measured,
    errors: ['not-found', 'no-sample'],
  },
  sendThroughFeed: {
    method: 'post',
    path: '/api/masters/{masterId}/feed-trips',
    summary:
      'Sends the file of a preset, saved or not, to a stand-in feed, and holds what that shows against it; a trip is kept for a while',
    body: FeedTripWish,
    answer: FeedTrip,
    errors: ['not-found', 'no-sample', 'no-feed', 'feed-refused'],
  },
  getFeedPicture: {
    method: 'get',
    path: '/api/feed-trips/{tripId}/picture',
    summary: 'A picture of a trip through a feed, as a file that a browser shows',
    query: z.object({ side: z.enum(FEED_SIDES) }),
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
  listFields: {
    method: 'post',
    path: '/api/masters/{masterId}/fields',
    summary: 'Every field of metadata that a preset would put into a file, and every one of the master that it would not',
    body: Preset,
    answer: FileFields,
    errors: ['not-found', 'no-sample'],
  },
  changeMarks: {
    method: 'put',
    path: '/api/sets/{setId}/marks',
    summary: 'Stars, choice, tags and overrides of any number of pictures',
    body: MarksChange,
    answer: MarksChanged,
    errors: ['not-found'],
  },
  exportDecisions: {
    method: 'get',
    path: '/api/sets/{setId}/decisions',
    summary: 'What was decided about the pictures of a set, as a file that travels: crops, places, focus and the like',
    answer: DecisionsFile,
    errors: ['not-found'],
  },
  matchDecisions: {
    method: 'post',
    path: '/api/sets/{setId}/decisions',
    summary: 'What a file of decisions says of the pictures of a set, by their content: as changes, which are not made yet',
    body: DecisionsFile,
    answer: MatchedDecisions,
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
    summary: 'Folders of the machine that pictures may be brought in from, or that files may go to',
    query: z.object({ path: z.string().max(4096).optional(), use: FolderUse.default('reading') }),
    answer: MachineFolder,
    errors: ['outside', 'no-folder'],
  },
  makeMachineFolder: {
    method: 'post',
    path: '/api/machine/folders',
    summary: 'Makes a folder in one that files may go to; one that is there already is as good',
    body: NewFolder,
    answer: MachineFolder,
    status: 201,
    errors: ['outside', 'no-folder', 'no-place'],
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
} as const satisfies Record<string, Endpoint>;
