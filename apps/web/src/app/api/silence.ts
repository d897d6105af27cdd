import type { HttpInterceptorFn } from '@angular/common/http';
import { computed, inject, Injectable, signal } from '@angular/core';
import { SILENT_MS } from '@rundle/core';
import { finalize } from 'rxjs';
import { ServerEvents } from './stream/server-events';

/** Whether the server answers: a page that waits for it says so by itself. */
@Injectable({ providedIn: 'root' })
export class Silence {
  private readonly isUp = inject(ServerEvents).isUp;
  /** Loads that have been without an answer for too long. */
  private readonly late = signal(0);
  readonly isSilent = computed(() => !this.isUp() || this.late() > 0);

  /** @returns to be called once there is an answer */
  waitsForAnswer(): () => void {
    let isLate = false;
    const timer = setTimeout(() => {
      isLate = true;
      this.late.update((late) => late + 1);
    }, SILENT_MS);
    return () => {
      clearTimeout(timer);
      if (isLate) this.late.update((late) => late - 1);
    };
  }
}

/** Watches over what a page loads; what is made when it is asked for may take its time. */
export const watchOverLoads: HttpInterceptorFn = (request, next) =>
  request.method === 'GET' ? next(request).pipe(finalize(inject(Silence).waitsForAnswer())) : next(request);
