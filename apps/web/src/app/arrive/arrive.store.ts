import type { Problem, Twin } from '@rundle/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { setActions } from '../set/set.store';
import type { FoundFile } from './dropped-files';

/** A file that is being sent. */
export interface Upload {
  id: string;
  fileName: string;
  bytes: number;
  sent: number;
}

export const arriveActions = createActionGroup({
  source: 'Arrive',
  events: {
    Dropped: props<{ setId: string; files: FoundFile[] }>(),
    'Deeper answered': props<{ setId: string; files: File[]; bring: boolean }>(),
    Begun: props<{ setId: string; files: File[]; at: number }>(),
    'Upload begun': props<{ upload: Upload }>(),
    'Upload went on': props<{ id: string; sent: number }>(),
    'Upload ended': props<{ id: string; bytes: number; twins: Twin[]; refused: Problem[] }>(),
    'Machine folder chosen': props<{ setId: string; path: string; deeper: boolean }>(),
    'Machine folder in': props<{ refused: Problem[] }>(),
    'Stop pressed': emptyProps(),
    'Refusals put away': emptyProps(),
    'Twins answered': props<{ setId: string; twins: Twin[]; bring: boolean }>(),
  },
});

interface State {
  /** Files in sub-folders, about which it has not been said yet whether they are meant. */
  deeper: File[];
  /** Being sent now. */
  uploads: Upload[];
  files: number;
  bytes: number;
  doneFiles: number;
  doneBytes: number;
  /** The set that they come into. */
  setId: string | null;
  /** When the first of them was begun, in ms since 1970. */
  since: number;
  refused: Problem[];
  twins: Twin[];
}

const initial: State = {
  deeper: [],
  uploads: [],
  files: 0,
  bytes: 0,
  doneFiles: 0,
  doneBytes: 0,
  setId: null,
  since: 0,
  refused: [],
  twins: [],
};
const ended = { files: 0, bytes: 0, doneFiles: 0, doneBytes: 0, uploads: [] };

export const arriveFeature = createFeature({
  name: 'arrive',
  reducer: createReducer(
    initial,
    on(setActions.pageOpened, (state): State => (state.files ? state : { ...initial })),
    on(arriveActions.dropped, (state, { files }): State => ({
      ...state,
      deeper: [...state.deeper, ...files.filter(({ depth }) => depth > 0).map(({ file }) => file)],
    })),
    on(arriveActions.deeperAnswered, (state): State => ({ ...state, deeper: [] })),
    on(arriveActions.begun, (state, { setId, files, at }): State => ({
      ...state,
      setId,
      files: state.files + files.length,
      bytes: state.bytes + files.reduce((sum, { size }) => sum + size, 0),
      since: state.files ? state.since : at,
    })),
    on(arriveActions.uploadBegun, (state, { upload }): State => ({ ...state, uploads: [...state.uploads, upload] })),
    on(arriveActions.uploadWentOn, (state, { id, sent }): State => ({
      ...state,
      uploads: state.uploads.map((upload) => (upload.id === id ? { ...upload, sent } : upload)),
    })),
    on(arriveActions.uploadEnded, (state, { id, bytes, twins, refused }): State => {
      const told = { refused: [...state.refused, ...refused], twins: [...state.twins, ...twins] };
      const doneFiles = state.doneFiles + 1;
      if (doneFiles >= state.files) return { ...state, ...ended, ...told };
      const uploads = state.uploads.filter((upload) => upload.id !== id);
      return { ...state, ...told, uploads, doneFiles, doneBytes: state.doneBytes + bytes };
    }),
    on(arriveActions.machineFolderIn, (state, { refused }): State => ({ ...state, refused: [...state.refused, ...refused] })),
    on(arriveActions.stopPressed, (state): State => ({ ...state, ...ended })),
    on(arriveActions.refusalsPutAway, (state): State => ({ ...state, refused: [] })),
    on(arriveActions.twinsAnswered, (state): State => ({ ...state, twins: [] })),
  ),
  extraSelectors: ({ selectUploads, selectFiles, selectBytes, selectDoneFiles, selectDoneBytes, selectSince }) => ({
    /** How the whole goes; null when nothing is on its way. */
    selectProgress: createSelector(
      ...([selectUploads, selectFiles, selectBytes, selectDoneFiles, selectDoneBytes, selectSince] as const),
      (uploads, files, bytes, doneFiles, doneBytes, since) => {
        if (files === 0) return null;
        const sent = doneBytes + uploads.reduce((sum, upload) => sum + upload.sent, 0);
        return { files, bytes, doneFiles, sent, since };
      },
    ),
  }),
});
