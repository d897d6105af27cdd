import { existsSync, mkdirSync, readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Master, MasterPage, PlanView, RunDetail, SetDetail, StoredHouseRules, StoredPreset, VetView } from '@rundle/core';
import { Preset as PresetSchema } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Masters } from '@rundle/store';
import { emptyBin, sweepUnfinished } from '../src/housekeeping/sweep';
import { picture, TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server?.stop());

const preset = async (title: string, more: object): Promise<StoredPreset> =>
  (await server.call<StoredPreset>('POST', '/api/presets', PresetSchema.parse({ kind: 'rundle.preset', version: 1, title, ...more }))).json;
const names = (masters: readonly Master[]) => masters.map(({ fileName }) => fileName);
const vet = async (setId: string, presetIds: string[]) =>
  (await server.call<VetView>('POST', `/api/sets/${setId}/vet`, { presetIds })).json.groups;

describe('marks', () => {
  it('of many pictures change in one call, only what is named, and another page is told', async () => {
    const setId = await server.set('Marks', 3);
    const other = await server.set('Other', 1);
    const { masters } = await server.detail(setId);
    const stranger = (await server.detail(other)).masters[0]!;
    const events = await server.follow(setId);
    const marks = [...masters.map(({ id }) => ({ masterId: id, stars: 4, tags: ['hero'] })), { masterId: stranger.id, stars: 1 }];
    expect((await server.call('PUT', `/api/sets/${setId}/marks`, { marks })).status).toBe(200);
    await server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: masters[1]!.id, choice: 'out' }] });
    const after = (await server.detail(setId)).masters;
    expect(after.map(({ stars, choice, tags }) => [stars, choice, tags])).toEqual([
      [4, null, ['hero']],
      [4, 'out', ['hero']],
      [4, null, ['hero']],
    ]);
    expect((await server.detail(other)).masters[0]!.stars).toBe(0);
    const told = () => events.flatMap((event) => (event.type === 'masters' ? event.masters : []));
    await server.until(() => Promise.resolve(told().some(({ choice }) => choice === 'out')));
    expect(events.every(({ type }) => type === 'masters' || type === 'weighed')).toBe(true);
    expect((await server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: masters[0]!.id, stars: 6 }] })).status).toBe(400);
    await server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: masters[1]!.id, choice: null }] });
    expect((await server.detail(setId)).masters[1]!.choice).toBeNull();
  });

  it('decide what a plan makes, and the order decides the counter', async () => {
    const setId = await server.set('Plan', 4);
    const [a, b, c, d] = (await server.detail(setId)).masters.map(({ id }) => id);
    const all = await preset('All', { name: { parts: [{ part: 'counter', digits: 1 }] }, folder: 'all' });
    const heroes = await preset('Heroes', { applies: { tags: ['Hero'] }, folder: 'heroes' });
    await server.call('PUT', `/api/sets/${setId}/marks`, {
      marks: [
        { masterId: b, choice: 'out' },
        { masterId: d, tags: ['hero'] },
        { masterId: c, overrides: { without: [all.id] } },
      ],
    });
    await server.call('PUT', `/api/sets/${setId}/order`, { masterIds: [d, c, b] });
    const { json } = await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: [all.id, heroes.id] });
    const told = json.outputs.map((output) => {
      const { masterId, presetId, status } = output;
      const name = status === 'planned' ? output.fileName : status === 'not-for' ? output.reason.message : status;
      return [masterId, presetId === all.id || status !== 'planned' ? name : 'hero'];
    });
    const onlyHero = 'Only for pictures tagged “Hero”.';
    expect(told).toEqual([
      [d, '1.jpg'],
      [d, 'hero'],
      [c, 'It was decided that this preset makes nothing of it.'],
      [c, onlyHero],
      [a, '3.jpg'],
      [a, onlyHero],
    ]);
  });
});

describe('the order and the bin', () => {
  it('keep pictures that nobody named, and undo a removal to where it was', async () => {
    const setId = await server.set('Order', 4);
    const ids = (await server.detail(setId)).masters.map(({ id }) => id);
    await server.call('POST', `/api/sets/${setId}/masters/remove`, { masterIds: [ids[1]] });
    expect(names((await server.detail(setId)).masters)).toEqual(['p 1.jpg', 'p 3.jpg', 'p 4.jpg']);
    expect((await server.call<SetDetail>('GET', `/api/sets/${setId}`)).json.pictures).toBe(3);
    await server.call('POST', `/api/sets/${setId}/masters/restore`, { masterIds: [ids[1]] });
    expect(names((await server.detail(setId)).masters)).toEqual(['p 1.jpg', 'p 2.jpg', 'p 3.jpg', 'p 4.jpg']);
    await server.call('PUT', `/api/sets/${setId}/order`, { masterIds: [ids[3], ids[0]] });
    expect(names((await server.detail(setId)).masters)).toEqual(['p 4.jpg', 'p 1.jpg', 'p 2.jpg', 'p 3.jpg']);
    const { json } = await server.call<MasterPage>('GET', `/api/sets/${setId}/masters?from=1&count=2`);
    expect([names(json.masters), json.total]).toEqual([['p 1.jpg', 'p 2.jpg'], 4]);
    expect((await server.call('GET', `/api/sets/${setId}/masters?count=100000`)).status).toBe(400);
  });
});

describe('vetting', () => {
  it('groups what would go wrong, and a remedy settles it', async () => {
    const setId = await server.set('Vet', 2, 900);
    await server.upload(setId, [
      await picture('p 1.jpg', 2400, 5),
      new File([new Uint8Array([0xff, 0xd8, 0xff, 0xe0, 0, 16, 1])], 'cut.jpg'),
    ]);
    await server.until(async () => (await server.detail(setId)).masters.every(({ state }) => state !== 'arriving'));
    const ids = (await server.detail(setId)).masters.map(({ id }) => id);
    const large = await preset('Large', { size: { px: 2048 }, metadata: { fill: false }, name: { parts: [{ part: 'original' }] } });
    const groups = await vet(setId, [large.id]);
    expect(groups.map(({ code, pictures }) => [code, pictures.map(({ masterId }) => ids.indexOf(masterId))])).toEqual([
      ['unreadable', [3]],
      ['smaller-than-asked', [0, 1]],
      ['no-profile', [0, 1, 2]],
      ['rights-missing', [0, 1, 2]],
      ['same-name', [2]],
      ['already-small', [0, 1]],
    ]);
    expect(groups[1]!.remedy).toEqual({ kind: 'without', presetId: large.id, title: 'Large' });
    const overrides = { assumeSrgb: true, without: [large.id] };
    await server.call('PUT', `/api/sets/${setId}/marks`, {
      marks: [
        { masterId: ids[0], overrides },
        { masterId: ids[1], choice: 'out' },
        { masterId: ids[3], choice: 'out' },
      ],
    });
    expect((await vet(setId, [large.id])).map(({ code, pictures }) => [code, pictures.length])).toEqual([
      ['no-profile', 1],
      ['rights-missing', 2],
      ['already-small', 1],
    ]);
  });

  it('holds masters and planned outputs against the receiver’s house rules', async () => {
    const { json: examples } = await server.call<StoredHouseRules[]>('GET', '/api/house-rules');
    expect(examples.map(({ rules }) => rules.title)).toContain('Quayside Shop');
    const rules = { title: 'Strict', leastShortSide: 2000, mostPixels: 500, mostBytes: 5000, types: ['webp'] };
    const { json: strict } = await server.call<StoredHouseRules>('POST', '/api/house-rules', rules);
    const setId = await server.set('House', 1, 900);
    await server.call('PATCH', `/api/sets/${setId}`, { houseRulesId: strict.id });
    const small = await preset('Small', { size: { px: 800 } });
    expect((await vet(setId, [small.id])).map(({ code }) => code)).toContain('house-short');
    const plan = () =>
      server.call<{ outputs: { warnings: { code: string }[] }[] }>('POST', `/api/sets/${setId}/plan`, { presetIds: [small.id] });
    expect((await plan()).json.outputs[0]!.warnings.map(({ code }) => code)).toEqual([
      'house-long',
      'house-short',
      'house-heavy',
      'house-type',
    ]);
    const heavy = (warnings: { code: string; message?: string }[]) => warnings.find(({ code }) => code === 'house-heavy')?.message;
    expect(heavy((await plan()).json.outputs[0]!.warnings)).toContain('will have about');
    // Afterwards it is the file that is spoken of.
    const { json: run } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [small.id] });
    const ended = async () => (await server.call<RunDetail>('GET', `/api/runs/${run.id}`)).json;
    await server.until(async () => (await ended()).state === 'done');
    const [output] = (await ended()).outputs;
    expect(heavy(output!.warnings)).toBe(`Strict takes 5 KB at most; this has ${Math.round(output!.bytes! / 1000)} KB.`);
    await server.call('DELETE', `/api/house-rules/${strict.id}`);
    const again = await preset('Small again', { size: { px: 700 } });
    const { json: open } = await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: [again.id] });
    expect(open.outputs).toMatchObject([{ status: 'planned', warnings: [] }]);
  });
});

describe('sets', () => {
  it('are duplicated without copying a file, put away and put back', async () => {
    const setId = await server.set('Evening', 2);
    const { masters } = await server.detail(setId);
    await server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: masters[1]!.id, stars: 4, tags: ['hero'] }] });
    const before = readdirSync(join(server.config.data, 'masters'), { recursive: true });
    const { json: copy } = await server.call<SetDetail>('POST', `/api/sets/${setId}/duplicate`, {});
    expect(copy).toMatchObject({ title: 'Evening (2)', pictures: 2, shelf: 'work' });
    expect((await server.detail(copy.id)).masters).toMatchObject([{ fileName: 'p 1.jpg' }, { stars: 4, tags: ['hero'], state: 'ready' }]);
    expect((await server.detail(copy.id)).masters[0]!.id).not.toBe(masters[0]!.id);
    expect(readdirSync(join(server.config.data, 'masters'), { recursive: true })).toEqual(before);
    const shelf = async (id: string) => (await server.call<SetDetail>('GET', `/api/sets/${id}`)).json.shelf;
    for (const place of ['archive', 'bin', 'work']) {
      await server.call('PATCH', `/api/sets/${setId}`, { shelf: place });
      expect(await shelf(setId)).toBe(place);
    }
  });

  it('are gone from the bin after 30 days, with the files that only they used', async () => {
    const setId = await server.set('Old', 1);
    const sha256 = (await server.database.masters.findOne({ where: { setId } }))!.sha256!;
    const { json: copy } = await server.call<SetDetail>('POST', `/api/sets/${setId}/duplicate`, {});
    const away = (id: string, days: number) =>
      server.database.sets.update({ deletedAt: new Date(Date.now() - days * 86_400_000) }, { where: { id } });
    await away(setId, 31);
    await away(copy.id, 29);
    expect((await emptyBin(server))?.deleted).toEqual([]); // the copy still uses it
    expect((await server.call('GET', `/api/sets/${setId}`)).status).toBe(404);
    expect(await server.files.masters.has(sha256)).toBe(true);
    await away(copy.id, 31);
    expect((await emptyBin(server))?.deleted).toEqual([sha256]);
    expect(await server.files.masters.has(sha256)).toBe(false);
  });

  it('and what nobody names any more are swept, unfinished files with their attempt, and nothing younger', async () => {
    const setId = await server.set('Swept', 1);
    const { masters } = await server.detail(setId);
    const over = await server.files.outputs.workFile('', masters[0]!.id, 3, '.jpg');
    writeFileSync(over, 'left');
    expect(await sweepUnfinished(server)).toBe(1);
    expect(existsSync(over)).toBe(false);
    const place = (mark: string) => join(server.config.data, 'masters', mark, mark.repeat(32));
    const [orphan, older] = [place('ab'), place('cd')];
    for (const path of [orphan, older]) {
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, 'nobody’s');
    }
    utimesSync(older, 1e9, 1e9); // it lay there before this database was made
    const nothing = { deleted: [], discarded: [], restored: [], expired: [] };
    expect(await emptyBin(server)).toEqual(nothing); // they have only just come
    const { masters: files } = server.files;
    const later = (days: number) => ({
      list: async () => (await files.list()).map((one) => ({ ...one, ageMs: one.ageMs + days * 86_400_000 })),
      discarded: async () => (await files.discarded()).map((one) => ({ ...one, ageMs: one.ageMs + days * 86_400_000 })),
    });
    const sweep = (days: number) =>
      emptyBin({
        database: server.database,
        files: { ...server.files, masters: Object.assign(Object.create(files), later(days)) as Masters },
      });
    expect(await sweep(1)).toEqual({ ...nothing, discarded: ['ab'.repeat(32)] });
    expect([existsSync(orphan), existsSync(older)]).toEqual([false, true]);
    // A database that comes back finds its own in the bin; what nobody asks for goes after 30 days.
    const own = (await server.database.masters.findByPk(masters[0]!.id))!.sha256;
    await server.database.masters.update({ sha256: 'ab'.repeat(32) }, { where: { id: masters[0]!.id } });
    expect((await emptyBin(server))?.restored).toEqual(['ab'.repeat(32)]);
    expect(existsSync(orphan)).toBe(true);
    await server.database.masters.update({ sha256: own }, { where: { id: masters[0]!.id } });
    expect((await sweep(1))?.discarded).toEqual(['ab'.repeat(32)]);
    expect(await sweep(29)).toEqual(nothing);
    expect((await sweep(31))?.expired).toEqual(['ab'.repeat(32)]);
    expect((await files.discarded()).length).toBe(0);
    expect((await fetch(`${server.url}/api/masters/${masters[0]!.id}/picture`)).status).toBe(200);
  });
});
