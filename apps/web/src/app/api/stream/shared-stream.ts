import { addressOf, SILENT_MS, type StreamEvent } from '@rundle/core';

/** A message of a page to the stream: which set it shows now, or that it has been left. */
export type PageMessage = { kind: 'follow'; setId: string | null } | { kind: 'left' };

/** A message of the stream to a page. */
export type StreamMessage =
  | { kind: 'event'; event: StreamEvent }
  /** From now on every change of the set comes: what was before has to be loaded. */
  | { kind: 'followed'; setId: string }
  | { kind: 'connection'; isUp: boolean };

/** A page that listens. */
export interface Listener {
  postMessage(message: StreamMessage): void;
}

/** The parts of an EventSource that are needed. */
export interface Source {
  onmessage: ((event: MessageEvent<string>) => unknown) | null;
  onerror: ((event: Event) => unknown) | null;
  readonly readyState: number;
  close(): void;
}

const CLOSED = 2;

/** Pauses before what failed is tried again, in ms; the last one again and again. */
const PAUSES = [250, 1000, 2000, 5000, 10_000];

/**
 * The one event stream of a browser, shared by its pages: a browser opens six connections to a server at most (HTTP/1.1), and each
 * stream keeps one of them for itself.
 */
export class SharedStream {
  private readonly pages = new Map<Listener, string | null>();
  /** What each page has been told to follow, so that it is told once. */
  private readonly told = new Map<Listener, string>();
  private source: Source | null = null;
  private streamId: string | null = null;
  private saying = false;
  private failures = 0;
  /** Whether the pages have been told that there is no connection. */
  private isLost = false;
  private silence: ReturnType<typeof setTimeout> | null = null;

  /**
   * @param open opens the event stream at an address
   * @param put sends JSON; gives the status of the answer, 0 without one
   */
  constructor(
    private readonly open: (address: string) => Source,
    private readonly put: (address: string, body: unknown) => Promise<number>,
  ) {}

  hear(page: Listener, message: PageMessage): void {
    if (message.kind === 'left') {
      this.pages.delete(page);
      this.told.delete(page);
      if (this.pages.size === 0) this.end();
      return;
    }
    // A stream that is only being opened is nothing to tell.
    if (!this.pages.has(page) && (this.isLost || this.streamId !== null)) page.postMessage({ kind: 'connection', isUp: !this.isLost });
    this.pages.set(page, message.setId);
    this.told.delete(page);
    if (!this.source) this.begin();
    void this.sayWhatIsFollowed();
  }

  private begin(): void {
    const source = this.open(addressOf('events', {}));
    this.source = source;
    this.silence ??= setTimeout(() => this.tellLost(), SILENT_MS);
    source.onmessage = ({ data }) => {
      this.listen();
      this.take(JSON.parse(data) as StreamEvent);
    };
    source.onerror = () => {
      if (this.source !== source) return;
      this.lost();
      // A browser connects again by itself, unless the answer was an error.
      if (source.readyState === CLOSED) this.again();
    };
  }

  /** A connection may stand while nobody answers: the server tells now and then that it is there. */
  private listen(): void {
    this.deafen();
    this.silence = setTimeout(() => this.tellLost(), SILENT_MS);
    if (this.isLost && this.streamId !== null) this.tellUp();
  }

  private deafen(): void {
    if (this.silence) clearTimeout(this.silence);
    this.silence = null;
  }

  private tellUp(): void {
    this.isLost = false;
    this.tellAll({ kind: 'connection', isUp: true });
  }

  private tellLost(): void {
    if (this.isLost) return;
    this.isLost = true;
    this.tellAll({ kind: 'connection', isUp: false });
  }

  private end(): void {
    if (this.pages.size === 0) {
      this.deafen();
      this.isLost = false;
    }
    this.source?.close();
    this.source = null;
    this.streamId = null;
  }

  private again(): void {
    this.end();
    setTimeout(() => {
      if (!this.source && this.pages.size) this.begin();
    }, this.pause());
  }

  private lost(): void {
    if (this.streamId !== null) this.tellLost();
    this.streamId = null;
    this.told.clear();
  }

  private take(event: StreamEvent): void {
    switch (event.about) {
      case 'stream':
        this.streamId = event.streamId;
        this.failures = 0;
        this.told.clear();
        this.tellUp();
        return void this.sayWhatIsFollowed();
      case 'set':
        for (const [page, setId] of this.pages) if (setId === event.setId) page.postMessage({ kind: 'event', event });
        return;
      case 'beat':
        return;
      default:
        this.tellAll({ kind: 'event', event });
    }
  }

  /** Tells the server which sets are shown, and then each page that its own is followed. One call at a time, always the newest list. */
  private async sayWhatIsFollowed(): Promise<void> {
    const { streamId } = this;
    if (this.saying || streamId === null) return;
    this.saying = true;
    const setIds = [...new Set([...this.pages.values()].filter((setId) => setId !== null))];
    const status = await this.put(addressOf('followSets', { streamId }), { setIds });
    this.saying = false;
    if (this.streamId !== streamId) return void this.sayWhatIsFollowed();
    if (status === 404) return this.again();
    if (status >= 300 || status === 0) return void setTimeout(() => void this.sayWhatIsFollowed(), this.pause());
    this.failures = 0;
    for (const [page, setId] of this.pages)
      if (setId !== null && setIds.includes(setId) && this.told.get(page) !== setId) {
        this.told.set(page, setId);
        page.postMessage({ kind: 'followed', setId });
      }
    if ([...this.pages.values()].some((setId) => setId !== null && !setIds.includes(setId))) await this.sayWhatIsFollowed();
  }

  private tellAll(message: StreamMessage): void {
    for (const page of this.pages.keys()) page.postMessage(message);
  }

  private pause(): number {
    return PAUSES[Math.min(this.failures++, PAUSES.length - 1)]!;
  }
}

/** As a browser has it. */
export const browserStream = (): SharedStream =>
  new SharedStream(
    (address) => new EventSource(address),
    async (address, body) => {
      const headers = { 'Content-Type': 'application/json' };
      const response = await fetch(address, { method: 'PUT', headers, body: JSON.stringify(body) }).catch(() => null);
      return response?.status ?? 0;
    },
  );
