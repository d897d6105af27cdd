import type { StreamEvent } from '@rundle/core';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { type Listener, SharedStream, type Source, type StreamMessage } from './shared-stream';

/** An event source whose server is this test. */
class FakeSource implements Source {
  onmessage: Source['onmessage'] = null;
  onerror: Source['onerror'] = null;
  readyState = 1;
  close = vi.fn();
  tell(event: StreamEvent): void {
    this.onmessage?.({ data: JSON.stringify(event) } as MessageEvent<string>);
  }
  fail(readyState: number): void {
    this.readyState = readyState;
    this.onerror?.({} as Event);
  }
}

const id = (n: number) => `00000000-0000-4000-8000-00000000000${n}`;
let sources: FakeSource[];
const put = vi.fn<(address: string, body: unknown) => Promise<number>>();
let stream: SharedStream;

beforeEach(() => {
  vi.useFakeTimers();
  vi.resetAllMocks();
  put.mockResolvedValue(204);
  sources = [];
  stream = new SharedStream(() => sources[sources.push(new FakeSource()) - 1]!, put);
});
afterEach(() => void vi.useRealTimers());

const settle = () => vi.advanceTimersByTimeAsync(0);
const connect = async (n = 1) => {
  sources.at(-1)!.tell({ about: 'stream', streamId: id(n) });
  await settle();
};

function page(setId: string | null) {
  const heard: StreamMessage[] = [];
  const listener: Listener = { postMessage: (message) => heard.push(message) };
  stream.hear(listener, { kind: 'follow', setId });
  const follows = () => heard.filter(({ kind }) => kind === 'followed').length;
  const events = () => heard.flatMap((message) => (message.kind === 'event' ? [message.event.about] : []));
  return { listener, heard, follows, events };
}

describe('the event stream of a browser', () => {
  it('says that the server is silent, though the connection stands, and that it is back', async () => {
    const one = page(null);
    const told = () => one.heard.flatMap((message) => (message.kind === 'connection' ? [message.isUp] : []));
    await vi.advanceTimersByTimeAsync(9_000);
    // So far it is only being opened.
    expect(told()).toEqual([]);
    await connect();
    await vi.advanceTimersByTimeAsync(9_000);
    sources[0]!.tell({ about: 'beat' });
    await vi.advanceTimersByTimeAsync(9_000);
    expect(told()).toEqual([true]);
    await vi.advanceTimersByTimeAsync(1_500);
    expect(told()).toEqual([true, false]);
    const late = page(null);
    expect(late.heard).toEqual([{ kind: 'connection', isUp: false }]);
    sources[0]!.tell({ about: 'beat' });
    expect(told()).toEqual([true, false, true]);
  });

  it('says so of a server that was never there, however often it is tried', async () => {
    const one = page(null);
    for (let tries = 0; tries < 6; tries++) {
      sources.at(-1)!.fail(2);
      await vi.advanceTimersByTimeAsync(4_000);
    }
    expect(one.heard).toEqual([{ kind: 'connection', isUp: false }]);
  });

  it('is opened once for any number of pages, and follows the sets of all', async () => {
    const pages = [id(5), id(6), id(5), null].map(page);
    await connect();
    expect(sources).toHaveLength(1);
    expect(put.mock.calls.at(-1)).toEqual([`/api/events/${id(1)}`, { setIds: [id(5), id(6)] }]);
    expect(pages.map(({ follows }) => follows())).toEqual([1, 1, 1, 0]);
    sources[0]!.tell({ about: 'set', setId: id(5), event: { type: 'order', masterIds: [] } });
    sources[0]!.tell({ about: 'topic', topic: 'presets' });
    expect(pages.map(({ events }) => events())).toEqual([['set', 'topic'], ['topic'], ['set', 'topic'], ['topic']]);
  });

  it('tells each page again to load its set after it broke', async () => {
    const one = page(id(5));
    await connect(1);
    sources[0]!.fail(0);
    expect(one.heard.at(-1)).toEqual({ kind: 'connection', isUp: false });
    await connect(2);
    expect(one.follows()).toBe(2);
    expect(put.mock.calls.map(([address]) => address)).toEqual([`/api/events/${id(1)}`, `/api/events/${id(2)}`]);
  });

  it('is opened anew by itself where the browser gives up, with growing pauses', async () => {
    const one = page(id(5));
    for (const pause of [250, 1000, 2000]) {
      sources.at(-1)!.fail(2);
      await vi.advanceTimersByTimeAsync(pause - 1);
      const before = sources.length;
      await vi.advanceTimersByTimeAsync(1);
      expect(sources).toHaveLength(before + 1);
    }
    await connect();
    expect(one.follows()).toBe(1);
  });

  it('tries again what the server did not take, and opens anew when it does not know the stream', async () => {
    const one = page(id(5));
    put.mockResolvedValueOnce(503).mockResolvedValueOnce(0);
    await connect();
    expect(one.follows()).toBe(0);
    await vi.advanceTimersByTimeAsync(5000);
    expect(one.follows()).toBe(1);
    put.mockResolvedValueOnce(404);
    stream.hear(one.listener, { kind: 'follow', setId: id(6) });
    await vi.advanceTimersByTimeAsync(1000);
    expect(sources).toHaveLength(2);
    await connect(2);
    expect(one.follows()).toBe(2);
  });

  it('goes by the newest wish, also while an earlier one is on its way', async () => {
    let answer: (status: number) => void = () => {};
    put.mockReturnValueOnce(new Promise((resolve) => (answer = resolve)));
    const one = page(id(5));
    await connect();
    stream.hear(one.listener, { kind: 'follow', setId: id(6) });
    answer(204);
    await settle();
    expect(put.mock.calls.map(([, body]) => body)).toEqual([{ setIds: [id(5)] }, { setIds: [id(6)] }]);
    expect(one.heard.filter(({ kind }) => kind === 'followed')).toEqual([{ kind: 'followed', setId: id(6) }]);
  });

  it('ends with the last page', async () => {
    const [one, other] = [page(id(5)), page(null)];
    await connect();
    stream.hear(one.listener, { kind: 'left' });
    expect(sources[0]!.close).not.toHaveBeenCalled();
    stream.hear(other.listener, { kind: 'left' });
    expect(sources[0]!.close).toHaveBeenCalled();
  });
});
