import { DestroyRef, inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { type Delivery, isOpenDelivery, type NewDelivery, type ResumeWish } from '@rundle/core';
import { catchError, EMPTY, filter, finalize, map, type Observable, switchMap, take, tap } from 'rxjs';
import { Api, deliveryZipUrl } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { setFeature } from '../set/set.store';
import { callFailed } from '../shell/problems';
import { handOverActions, handOverFeature } from './hand-over.store';

/** What is done with deliveries of the open set; what comes of it is in the store. */
@Injectable()
export class Deliveries {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly destroyed = inject(DestroyRef);
  private readonly setId = this.store.selectSignal(setFeature.selectSetId);

  start(body: NewDelivery): Observable<Delivery> {
    return this.told(this.api.startDelivery({ setId: this.setId() ?? '', body }), 'The delivery could not be started');
  }

  cancel(deliveryId: string): void {
    this.told(this.api.cancelDelivery({ deliveryId }), 'The delivery could not be cancelled').subscribe();
  }

  /** @param files those of its list, or what has been made anew since */
  resume(deliveryId: string, files: ResumeWish['files'] = 'listed'): void {
    this.told(this.api.resumeDelivery({ deliveryId, body: { files } }), 'The delivery could not go on').subscribe();
  }

  repeat(deliveryId: string): void {
    this.told(this.api.repeatDelivery({ deliveryId }), 'The delivery could not be repeated').subscribe();
  }

  decide(deliveryId: string, send: 'all' | 'without'): void {
    this.told(this.api.decideDelivery({ deliveryId, body: { send } }), 'The decision was not taken').subscribe();
  }

  /**
   * Has all files checked, and downloads them as a ZIP when that is done.
   * @param ended told when nothing is waited for any more, @param notReady when somebody has to look at the delivery
   */
  zip(ended: () => void, notReady: () => void): void {
    const body: NewDelivery = {
      way: { kind: 'zip' },
      content: { presetIds: [], masterIds: [], layout: 'folders', manifest: false },
      gallery: null,
    };
    this.start(body)
      .pipe(
        switchMap(({ id }) => this.ended(id)),
        finalize(ended),
      )
      .subscribe(({ id, state }) => {
        if (state === 'done') download(deliveryZipUrl(id));
        else notReady();
      });
  }

  /** The delivery once it is no longer under way. */
  ended(deliveryId: string): Observable<Delivery> {
    return this.store.select(handOverFeature.selectDeliveries).pipe(
      map((list) => list?.find(({ id }) => id === deliveryId)),
      filter((one): one is Delivery => one !== undefined && !isOpenDelivery(one)),
      take(1),
      takeUntilDestroyed(this.destroyed),
    );
  }

  private told(call: Observable<Delivery>, what: string): Observable<Delivery> {
    return call.pipe(
      // The answer may come when another set is open already.
      filter(({ setId }) => setId === this.setId()),
      tap((delivery) => this.store.dispatch(handOverActions.deliveryChanged({ delivery }))),
      catchError((error: unknown) => {
        this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
        return EMPTY;
      }),
    );
  }
}

/** Has the browser download something. */
function download(href: string): void {
  Object.assign(document.createElement('a'), { href, download: '' }).click();
}
