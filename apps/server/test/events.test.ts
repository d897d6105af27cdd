import type { MarksChanged, Master, SetEvent, StreamEvent } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EventEmitter } from 'node:events';
import type { Response } from 'express';
import { openLog } from '@rundle/store';
import { EventHub } from '../src/events/hub';
import { TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server?.stop());

/** What a page knows of a set: what it has loaded, and all that it was told since, in that order. */
function known(loaded: readonly Master[], events: readonly SetEvent[]): [id: string, stars: number][] {
  const masters = new Map(loaded.map((master) => [master.id, master]));
  let order = loaded.map(({ id }) => id);
  for (const event of events)
    if (event.type === 'masters') for (const master of event.masters) masters.set(master.id, master);
    else if (event.type === 'masters-removed') for (const id of event.masterIds) masters.delete(id);
    else if (event.type === 'order') order = event.masterIds;
  return order.flatMap((id) => (masters.has(id) ? [[id, masters.get(id)!.stars] as [string, number]] : []));
}

/** Numbers below a limit that look random and are the same each time (Lehmer generator; Park and Miller, 1988). */
function numbers(): (below: number) => number {
  let state = 42;
  return (below) => (state = (state * 48_271) % 2_147_483_647) % below;
}

describe('pages that follow a set', () => {
  it('know in the end what the database holds, however changes by several people cross', async () => {
    const setId = await server.set('Crossing', 5);
    const { masters } = await server.detail(setId);
    const ids = masters.map(({ id }) => id);
    const events = await server.follow(setId);
    const below = numbers();
    const change = (): Promise<{ status: number }> => {
      const masterId = ids[below(ids.length)]!;
      switch (below(4)) {
        case 0:
          return server.call('PUT', `/api/sets/${setId}/order`, { masterIds: [...ids].sort(() => below(3) - 1) });
        case 1:
          return server.call('POST', `/api/sets/${setId}/masters/${below(2) ? 'remove' : 'restore'}`, { masterIds: [masterId] });
        default:
          return server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId, stars: below(6) }] });
      }
    };
    for (let round = 0; round < 12; round++) {
      const statuses = (await Promise.all(Array.from({ length: 5 }, change))).map(({ status }) => status);
      expect(statuses.every((status) => status < 300)).toBe(true);
    }
    await server.call('POST', `/api/sets/${setId}/masters/restore`, { masterIds: ids });
    const now = (await server.detail(setId)).masters.map(({ id, stars }) => [id, stars] as const);
    expect(now).toHaveLength(5);
    // Each change of a picture is told by its answer, and is one more than the one before.
    const [id, stars] = now[0]!;
    const rated = async () =>
      (await server.call<MarksChanged>('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: id, stars }] })).json.revisions;
    const [first, second] = [await rated(), await rated()];
    expect(second).toEqual({ [id]: first[id]! + 1 });
    expect((await server.detail(setId)).masters[0]?.revision).toBe(second[id]);
    // Nothing that is told later may be older.
    let same = 0;
    await server.until(async () => {
      same = JSON.stringify(known(masters, events)) === JSON.stringify(now) ? same + 1 : 0;
      return Promise.resolve(same === 5);
    });
  });

  it('are told of their own set only, and together of what comes together', async () => {
    const [mine, other] = [await server.set('Mine', 3), await server.set('Other', 1)];
    const ids = (await server.detail(mine)).masters.map(({ id }) => id);
    const stranger = (await server.detail(other)).masters[0]!.id;
    const events = await server.follow(mine);
    await server.call('PUT', `/api/sets/${other}/marks`, { marks: [{ masterId: stranger, stars: 5 }] });
    await server.call('PUT', `/api/sets/${mine}/marks`, { marks: ids.map((masterId) => ({ masterId, stars: 2 })) });
    // Pictures that have been read are weighed when nothing else is to do.
    const told = () => events.filter(({ type }) => type !== 'weighed');
    await server.until(() => Promise.resolve(told().length > 0));
    expect(told().map((event) => (event.type === 'masters' ? event.masters.map(({ id }) => id).sort() : event.type))).toEqual([
      ids.toSorted(),
    ]);
  });

  it('and streams that are not there are refused', async () => {
    const nowhere = '/api/events/00000000-0000-4000-8000-000000000000';
    expect(await server.call('PUT', nowhere, { setIds: [] })).toMatchObject({ status: 404, json: { code: 'not-found' } });
  });

  it('change to another set in place, and hear of what all sets share', async () => {
    const [first, second] = [await server.set('First', 1), await server.set('Second', 1)];
    const heard: StreamEvent[] = [];
    const streamId = await server.listen((event) => heard.push(event));
    const follow = (...setIds: string[]) => server.call('PUT', `/api/events/${streamId}`, { setIds });
    const rate = async (setId: string) => {
      const [master] = (await server.detail(setId)).masters;
      await server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: master!.id, stars: 1 }] });
    };
    await follow(first);
    await rate(first);
    await server.until(() => Promise.resolve(heard.some((event) => event.about === 'set' && event.event.type === 'masters')));
    await follow(second);
    await rate(first);
    await rate(second);
    const [preset] = await server.presets();
    await server.call('PUT', `/api/presets/${preset!.id}`, preset!.preset);
    await server.call('PUT', '/api/studio', (await server.call<object>('GET', '/api/studio')).json);
    const topics = () => new Set(heard.flatMap((event) => (event.about === 'topic' ? [event.topic] : [])));
    await server.until(() => Promise.resolve(topics().has('presets') && topics().has('studio') && topics().has('sets')));
    const isRated = (event: StreamEvent) => event.about === 'set' && event.setId === second && event.event.type === 'masters';
    await server.until(() => Promise.resolve(heard.some(isRated)));
    const ofSets = heard.flatMap((event) => (event.about === 'set' && event.event.type !== 'weighed' ? [event.setId] : []));
    expect(ofSets).toEqual([first, second]);
  });
});

describe('work over a whole set', () => {
  it('says what is wrong as every other call does, and goes on', async () => {
    const nowhere = '/api/sets/00000000-0000-4000-8000-000000000000';
    const setId = await server.set('Whole', 2);
    const [preset] = await server.presets();
    for (const what of ['vet', 'plan', 'runs'])
      expect(await server.call('POST', `${nowhere}/${what}`, { presetIds: [preset!.id] })).toMatchObject({
        status: 404,
        json: { code: 'not-found', detail: 'There is no such set (any more).' },
      });
    const gone = ['00000000-0000-4000-8000-000000000000'];
    expect(await server.call('POST', `/api/sets/${setId}/plan`, { presetIds: gone })).toMatchObject({
      status: 404,
      json: { detail: 'One of the chosen presets has been deleted. Choose again.' },
    });
    const answers = await Promise.all(
      Array.from({ length: 6 }, () =>
        server.call<{ outputs: { masterId: string }[] }>('POST', `/api/sets/${setId}/plan`, { presetIds: [preset!.id] }),
      ),
    );
    const ids = (await server.detail(setId)).masters.map(({ id }) => id);
    for (const { json } of answers) expect(json.outputs.map(({ masterId }) => masterId)).toEqual(ids);
  });

  it('let a browser go that reads no more, instead of keeping all that it is told', async () => {
    const hub = new EventHub(server.database, server.config.databaseUrl, openLog('test', 'silent'));
    const written: string[] = [];
    const response = Object.assign(new EventEmitter(), {
      writableLength: 0,
      destroyed: false,
      writeHead: () => {},
      write: (text: string) => written.push(text),
      end: () => {},
      destroy() {
        this.destroyed = true;
        (response as EventEmitter).emit('close');
      },
    });
    hub.add(response as unknown as Response);
    const tell = async () => (await server.call('POST', '/api/sets', { title: 'Another' })).status === 201;
    // It may not listen yet when the first is told.
    const told = async (is: () => boolean) => (await tell()) && is();
    await server.until(() => told(() => written.some((text) => text.includes('topic'))));
    response.writableLength = 5_000_000;
    await server.until(() => told(() => response.destroyed));
    await hub.close();
  });
});
