import { Injectable, signal } from '@angular/core';
import type { SetEvent, StreamEvent } from '@rundle/core';
import { filter, finalize, map, Observable, Subject } from 'rxjs';
import { browserStream, type PageMessage, type StreamMessage } from './shared-stream';

/** Events of the server, for this page, over the one stream that all pages of the browser share. */
@Injectable({ providedIn: 'root' })
export class ServerEvents {
  private readonly messages = new Subject<StreamMessage>();
  private readonly send: (message: PageMessage) => void;
  private readonly up = signal(true);
  private setId: string | null = null;
  private wasUp = false;

  /** Whether the server is heard of; assumed to be until it has been silent for a while. */
  readonly isUp = this.up.asReadonly();
  /** Every run, and which shared lists have changed. */
  readonly news: Observable<Exclude<StreamEvent, { about: 'set' }>> = this.messages.pipe(
    map((message) => (message.kind === 'event' ? message.event : null)),
    filter((event) => event !== null && event.about !== 'set'),
  );
  /** Emits at each reconnection: anything may have been missed meanwhile. */
  readonly back: Observable<void>;

  constructor() {
    const back = new Subject<void>();
    this.back = back;
    this.send = connect((message) => {
      if (message.kind === 'connection') {
        if (message.isUp && !this.up() && this.wasUp) back.next();
        this.wasUp ||= message.isUp;
        this.up.set(message.isUp);
      }
      this.messages.next(message);
    });
    this.follow(null);
    // A page in the back/forward cache gets no events.
    addEventListener('pagehide', () => this.send({ kind: 'left' }));
    addEventListener('pageshow', ({ persisted }) => persisted && this.follow(this.setId));
  }

  /** Changes of a set as they happen. `connected` comes at first and at each reconnection: what was missed has to be loaded. */
  of(setId: string): Observable<SetEvent | { type: 'connected' }> {
    return new Observable((observer) => {
      const heard = this.messages
        .pipe(
          map((message): SetEvent | { type: 'connected' } | null => {
            if (message.kind === 'followed') return message.setId === setId ? { type: 'connected' } : null;
            return message.kind === 'event' && message.event.about === 'set' && message.event.setId === setId ? message.event.event : null;
          }),
          filter((event) => event !== null),
          finalize(() => this.setId === setId && this.follow(null)),
        )
        .subscribe(observer);
      this.follow(setId);
      return heard;
    });
  }

  private follow(setId: string | null): void {
    this.setId = setId;
    this.send({ kind: 'follow', setId });
  }
}

/** Where a browser has no shared workers, the page has a stream of its own. */
function connect(hear: (message: StreamMessage) => void): (message: PageMessage) => void {
  if (typeof SharedWorker === 'undefined') {
    const stream = browserStream();
    const page = { postMessage: hear };
    return (message) => stream.hear(page, message);
  }
  const { port } = new SharedWorker(new URL('./stream.worker', import.meta.url), { type: 'module', name: 'rundle-events' });
  port.onmessage = ({ data }: MessageEvent<StreamMessage>) => hear(data);
  return (message) => port.postMessage(message);
}
