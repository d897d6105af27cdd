import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  FromMachine,
  FromMachineResult,
  HandOverView,
  HouseRules,
  MachineFolder,
  MarksChange,
  MasterDetail,
  MasterPage,
  NewWatermark,
  PlanView,
  Preset,
  Run,
  RunDetail,
  SetChange,
  SetDetail,
  SetEvent,
  SetSummary,
  StoredHouseRules,
  StoredPreset,
  StoredWatermark,
  StudioDetails,
  Twin,
  UploadResult,
  VetView,
} from '@rundle/core';
import { Observable } from 'rxjs';

/** The calls of the server, typed by the core's schemas. */
@Injectable({ providedIn: 'root' })
export class Api {
  private readonly http = inject(HttpClient);

  sets(): Observable<SetSummary[]> {
    return this.http.get<SetSummary[]>('/api/sets');
  }

  makeSet(title: string): Observable<SetDetail> {
    return this.http.post<SetDetail>('/api/sets', { title });
  }

  set(setId: string): Observable<SetDetail> {
    return this.http.get<SetDetail>(`/api/sets/${setId}`);
  }

  changeSet(setId: string, change: SetChange): Observable<SetDetail> {
    return this.http.patch<SetDetail>(`/api/sets/${setId}`, change);
  }

  duplicateSet(setId: string): Observable<SetDetail> {
    return this.http.post<SetDetail>(`/api/sets/${setId}/duplicate`, {});
  }

  /** A part of the masters, in set order. */
  masters(setId: string, from: number): Observable<MasterPage> {
    return this.http.get<MasterPage>(`/api/sets/${setId}/masters?from=${from}`);
  }

  master(masterId: string): Observable<MasterDetail> {
    return this.http.get<MasterDetail>(`/api/masters/${masterId}`);
  }

  mark(setId: string, marks: MarksChange['marks']): Observable<void> {
    return this.http.put<void>(`/api/sets/${setId}/marks`, { marks });
  }

  order(setId: string, masterIds: readonly string[]): Observable<void> {
    return this.http.put<void>(`/api/sets/${setId}/order`, { masterIds });
  }

  restoreMasters(setId: string, masterIds: readonly string[]): Observable<void> {
    return this.http.post<void>(`/api/sets/${setId}/masters/restore`, { masterIds });
  }

  vet(setId: string, presetIds: readonly string[]): Observable<VetView> {
    return this.http.post<VetView>(`/api/sets/${setId}/vet`, { presetIds });
  }

  houseRules(): Observable<StoredHouseRules[]> {
    return this.http.get<StoredHouseRules[]>('/api/house-rules');
  }

  addHouseRules(rules: HouseRules): Observable<StoredHouseRules> {
    return this.http.post<StoredHouseRules>('/api/house-rules', rules);
  }

  saveHouseRules(id: string, rules: HouseRules): Observable<StoredHouseRules> {
    return this.http.put<StoredHouseRules>(`/api/house-rules/${id}`, rules);
  }

  removeHouseRules(id: string): Observable<void> {
    return this.http.delete<void>(`/api/house-rules/${id}`);
  }

  /** Brings in files again whose content is in the set already. */
  bringAgain(setId: string, twins: readonly Twin[]): Observable<UploadResult> {
    const wanted = twins.map(({ fileName, sha256 }) => ({ fileName, sha256 }));
    return this.http.post<UploadResult>(`/api/sets/${setId}/masters/again`, { twins: wanted });
  }

  machineFolder(path: string | null): Observable<MachineFolder> {
    return this.http.get<MachineFolder>('/api/machine/folders', path === null ? {} : { params: { path } });
  }

  fromMachine(setId: string, folder: FromMachine): Observable<FromMachineResult> {
    return this.http.post<FromMachineResult>(`/api/sets/${setId}/masters/from-machine`, folder);
  }

  lookAgain(setId: string): Observable<void> {
    return this.http.post<void>(`/api/sets/${setId}/masters/look-again`, {});
  }

  /** Reads pictures again whose reading was given up, or whose metadata could not be read. */
  readAgain(setId: string, masterIds: readonly string[]): Observable<void> {
    return this.http.post<void>(`/api/sets/${setId}/masters/read-again`, { masterIds });
  }

  removeMasters(setId: string, masterIds: readonly string[]): Observable<void> {
    return this.http.post<void>(`/api/sets/${setId}/masters/remove`, { masterIds });
  }

  presets(): Observable<StoredPreset[]> {
    return this.http.get<StoredPreset[]>('/api/presets');
  }

  makePreset(preset: Preset): Observable<StoredPreset> {
    return this.http.post<StoredPreset>('/api/presets', preset);
  }

  savePreset(id: string, preset: Preset): Observable<StoredPreset> {
    return this.http.put<StoredPreset>(`/api/presets/${id}`, preset);
  }

  deletePreset(id: string): Observable<void> {
    return this.http.delete<void>(`/api/presets/${id}`);
  }

  plan(setId: string, presetIds: readonly string[]): Observable<PlanView> {
    return this.http.post<PlanView>(`/api/sets/${setId}/plan`, { presetIds });
  }

  startRun(setId: string, presetIds: readonly string[]): Observable<RunDetail> {
    return this.http.post<RunDetail>(`/api/sets/${setId}/runs`, { presetIds });
  }

  runs(setId: string): Observable<Run[]> {
    return this.http.get<Run[]>(`/api/sets/${setId}/runs`);
  }

  run(runId: string): Observable<RunDetail> {
    return this.http.get<RunDetail>(`/api/runs/${runId}`);
  }

  cancelRun(runId: string): Observable<Run> {
    return this.http.post<Run>(`/api/runs/${runId}/cancel`, {});
  }

  handOver(setId: string): Observable<HandOverView> {
    return this.http.get<HandOverView>(`/api/sets/${setId}/outputs`);
  }

  watermarks(): Observable<StoredWatermark[]> {
    return this.http.get<StoredWatermark[]>('/api/watermarks');
  }

  addWatermark(watermark: NewWatermark): Observable<StoredWatermark> {
    return this.http.post<StoredWatermark>('/api/watermarks', watermark);
  }

  removeWatermark(id: string): Observable<void> {
    return this.http.delete<void>(`/api/watermarks/${id}`);
  }

  studio(): Observable<StudioDetails> {
    return this.http.get<StudioDetails>('/api/studio');
  }

  saveStudio(details: StudioDetails): Observable<StudioDetails> {
    return this.http.put<StudioDetails>('/api/studio', details);
  }

  /** Changes of a set as they happen. `connected` comes at each (re)connection: what was missed has to be loaded. */
  events(setId: string): Observable<SetEvent | { type: 'connected' }> {
    return new Observable((observer) => {
      const source = new EventSource(`/api/sets/${setId}/events`);
      source.onopen = () => observer.next({ type: 'connected' });
      source.onmessage = ({ data }: MessageEvent<string>) => observer.next(JSON.parse(data) as SetEvent);
      return () => source.close();
    });
  }
}

/** @param content as the master says, so that another file gets another address, and the browser keeps what it has */
export const thumbnailUrl = ({ id, content }: { id: string; content?: string | null }): string =>
  `/api/masters/${id}/thumbnail${content ? `?content=${content}` : ''}`;
/** A master as a browser can show it, as large as it is. */
export const pictureUrl = (masterId: string): string => `/api/masters/${masterId}/picture`;
export const outputUrl = (outputId: string): string => `/api/outputs/${outputId}/file`;
export const zipUrl = (setId: string): string => `/api/sets/${setId}/outputs.zip`;
