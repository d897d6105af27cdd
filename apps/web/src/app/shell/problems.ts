import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { createAction, props } from '@ngrx/store';
import { NzNotificationService } from 'ng-zorro-antd/notification';
import { tap } from 'rxjs';

/** An action failed; the sentence says which and what to do. */
export const callFailed = createAction('[Server] Call failed', props<{ what: string; sentence: string }>());

export const problemEffects = {
  tell: createEffect(
    (actions = inject(Actions), notifications = inject(NzNotificationService)) =>
      actions.pipe(
        ofType(callFailed),
        tap(({ what, sentence }) => notifications.error(what, sentence, { nzDuration: 8000, nzPlacement: 'bottomRight' })),
      ),
    { functional: true, dispatch: false },
  ),
};
