import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { isVaried, type Once, type Preset, type SetDetail, type StoredPreset } from '@rundle/core';
import { catchError, EMPTY, map, type Observable } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import { setActions } from './set.store';

/** Changes a preset for one set alone, or for good. */
@Injectable({ providedIn: 'root' })
export class VaryPreset {
  private readonly store = inject(Store);
  private readonly api = inject(Api);

  /** What is varied of a preset in a set from now on; nothing, where it has no value. */
  once(set: Pick<SetDetail, 'id' | 'once'>, presetId: string, once: Once): void {
    const others = Object.fromEntries(Object.entries(set.once).filter(([id]) => id !== presetId));
    const next = isVaried(once) ? { ...others, [presetId]: once } : others;
    this.store.dispatch(setActions.changedByHand({ setId: set.id, change: { once: next } }));
  }

  /** Saves a preset's next version; what went wrong is told by the shell. */
  save({ id, version }: StoredPreset, body: Preset): Observable<void> {
    return this.api.changePreset({ presetId: id, version, body }).pipe(
      catchError((error: unknown) => {
        this.store.dispatch(callFailed({ what: 'The preset was not saved', sentence: sentenceOf(error) }));
        return EMPTY;
      }),
      map(() => undefined),
    );
  }
}
