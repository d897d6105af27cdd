import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  type Delivery,
  type DeliveryDetail,
  type DeliveryPreview,
  type HandOverView,
  HouseRules,
  Preset,
  type ReceiverTest,
  type StoredPreset,
  type StoredReceiver,
} from '@rundle/core';
import { type StandIns, startStandIns } from '@rundle/stand-ins';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { BreakingLine } from '../../../packages/transport/test/breaking-line';
import { TestServer } from './server';

/** Keeps the name of the master, without which spaces and accents would not get into the test. */
const ORIGINAL = { parts: [{ part: 'original' }], webSafe: false };
const PAGES = fileURLToPath(new URL('../../../stand-ins', import.meta.url));
let server: TestServer;
let standIns: StandIns;
let setId: string;
let presetIds: string[];
const lines: string[] = [];

beforeAll(async () => {
  server = await TestServer.start(true, undefined, (line) => lines.push(line));
  standIns = await startStandIns(join(server.config.data, 'stand-ins'), PAGES, true);
  setId = await server.set('Quay évening', 6, 700);
  presetIds = [await make('Web', { size: { px: 400 }, name: ORIGINAL }), await make('Small', { size: { px: 160 }, name: ORIGINAL })];
  await run(setId, presetIds);
});
afterAll(async () => {
  await server.stop();
  await standIns.close();
});

async function make(title: string, more: object): Promise<string> {
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, existing: 'replace', folder: title.toLowerCase(), ...more });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json.id;
}
async function run(ofSet: string, presets: string[]): Promise<void> {
  const { json } = await server.call<{ id: string }>('POST', `/api/sets/${ofSet}/runs`, { presetIds: presets });
  await server.until(async () => (await server.call<{ state: string }>('GET', `/api/runs/${json.id}`)).json.state === 'done');
}
const start = async (way: object, more: object = {}) =>
  server.call<Delivery>('POST', `/api/sets/${setId}/deliveries`, { way, content: {}, ...more });
const detail = async (id: string) => (await server.call<DeliveryDetail>('GET', `/api/deliveries/${id}`)).json;
const isOver = ({ state }: Delivery) => !['checking', 'sending'].includes(state);
async function ended(id: string): Promise<DeliveryDetail> {
  await server.until(async () => isOver(await detail(id)));
  return detail(id);
}
async function deliver(way: object, more: object = {}): Promise<DeliveryDetail> {
  const { json, status } = await start(way, more);
  expect({ status, json }).toMatchObject({ status: 201 });
  return ended(json.id);
}
const addStandIn = async (kind: string) => (await server.call<StoredReceiver>('POST', '/api/receivers/stand-ins', { kind })).json;
const filesBelow = (folder: string) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1))
    .sort();
const sha256 = (path: string) => createHash('sha256').update(readFileSync(path)).digest('hex');

describe('a delivery to a folder', () => {
  const folder = () => join(server.config.writeRoots[0]!, 'quay');

  it('copies, keeps what lies there as it is, and proves itself', async () => {
    const first = await deliver({ kind: 'folder', path: folder() }, { content: { manifest: true } });
    expect(first).toMatchObject({ state: 'done', counts: { files: 13, sent: 13, kept: 0 } });
    expect(filesBelow(folder())).toHaveLength(13);
    const again = await ended((await server.call<Delivery>('POST', `/api/deliveries/${first.id}/repeat`)).json.id);
    expect(again.counts).toMatchObject({ kept: 12, sent: 1 }); // the manifest says when
    const verify = () => {
      try {
        return execFileSync('node', ['dist/rundle.js', 'verify', folder()], { encoding: 'utf8' });
      } catch (error) {
        return (error as { stdout: string }).stdout;
      }
    };
    expect(verify()).toContain('12 of 12 files are as delivered');
    const victim = join(folder(), 'web/p 3.jpg');
    writeFileSync(victim, Buffer.concat([readFileSync(join(folder(), 'web/p 4.jpg')), Buffer.from('x')]));
    expect(verify()).toContain('web/p 3.jpg');
  });

  it('never touches what somebody else has put there, and says which', async () => {
    const elsewhere = join(server.config.writeRoots[0]!, 'strangers');
    mkdirSync(join(elsewhere, 'web'), { recursive: true });
    writeFileSync(join(elsewhere, 'web/p 2.jpg'), 'somebody else’s');
    const told = await deliver({ kind: 'folder', path: elsewhere });
    expect(told).toMatchObject({ state: 'failed', counts: { sent: 11, failed: 1 }, problem: { code: 'exists', file: 'web/p 2.jpg' } });
    expect(told.log.map(({ text }) => text)).toContain('All files were opened and checked.');
    expect(readFileSync(join(elsewhere, 'web/p 2.jpg'), 'utf8')).toBe('somebody else’s');
    rmSync(join(elsewhere, 'web/p 2.jpg'));
    await server.call('POST', `/api/deliveries/${told.id}/resume`);
    expect(await ended(told.id)).toMatchObject({ state: 'done', counts: { sent: 12, failed: 0 } });
    expect(filesBelow(elsewhere).filter((name) => name.includes('part'))).toEqual([]);
    const { status } = await start({ kind: 'folder', path: '/somewhere/else' });
    expect(status).toBe(403);
  });

  it('goes on with files that have been made anew since, or with those of its list where they still exist', async () => {
    const other = await server.set('Anew', 3, 400);
    const web = await make('Anew', { size: { px: 200 }, name: ORIGINAL });
    await run(other, [web]);
    const change = async (more: object) => {
      const { json } = await server.call<StoredPreset>('GET', `/api/presets/${web}`);
      await server.call('PUT', `/api/presets/${web}`, { ...json.preset, ...more });
      await run(other, [web]);
    };
    const to = join(server.config.writeRoots[0]!, 'anew');
    mkdirSync(join(to, 'anew'), { recursive: true });
    writeFileSync(join(to, 'anew/p 2.jpg'), 'in the way');
    const { json } = await server.call<Delivery>('POST', `/api/sets/${other}/deliveries`, {
      way: { kind: 'folder', path: to },
      content: {},
    });
    expect(await ended(json.id)).toMatchObject({ state: 'failed', counts: { sent: 2, failed: 1 }, renewed: 0 });
    rmSync(join(to, 'anew/p 2.jpg'));

    // Under another name: the files of the list still exist, and are what goes when that is chosen.
    await change({ folder: 'renamed', size: { px: 180 } });
    expect(await detail(json.id)).toMatchObject({ renewed: 3 });
    await server.call('POST', `/api/deliveries/${json.id}/resume`);
    expect(await ended(json.id)).toMatchObject({ state: 'done', counts: { files: 3, sent: 3 } });
    expect(filesBelow(to)).toEqual(['anew/p 1.jpg', 'anew/p 2.jpg', 'anew/p 3.jpg']);

    // In their own place: with its list it fails for good, with the new ones it ends well.
    const { json: second } = await server.call<Delivery>('POST', `/api/sets/${other}/deliveries`, {
      way: { kind: 'folder', path: `${to}-2` },
      content: {},
    });
    await ended(second.id);
    await server.database.deliveries.update({ state: 'cancelled' }, { where: { id: second.id } });
    await server.database.deliveryFiles.update({ state: 'waiting' }, { where: { deliveryId: second.id, path: 'renamed/p 3.jpg' } });
    await change({ size: { px: 150 } });
    expect(await detail(second.id)).toMatchObject({ renewed: 3 });
    await server.call('POST', `/api/deliveries/${second.id}/resume`);
    expect(await ended(second.id)).toMatchObject({ state: 'failed', problem: { code: 'file-changed' } });
    await server.call('POST', `/api/deliveries/${second.id}/resume`, { files: 'renewed' });
    expect(await ended(second.id)).toMatchObject({ state: 'done', counts: { files: 3, failed: 0 }, renewed: 0 });
    const { json: view } = await server.call<HandOverView>('GET', `/api/sets/${other}/outputs`);
    for (const path of filesBelow(`${to}-2`)) expect(sha256(join(`${to}-2`, path))).toBe(sha256(join(view.path!, path)));
    expect(filesBelow(`${to}-2`)).toHaveLength(3);
  });

  it('says how many were checked, and every reason why some did not go', async () => {
    const elsewhere = join(server.config.writeRoots[0]!, 'reasons');
    mkdirSync(join(elsewhere, 'small'), { recursive: true });
    writeFileSync(join(elsewhere, 'small/p 4.jpg'), 'somebody else’s');
    const { json: view } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    const victims = ['web/p 1.jpg', 'web/p 2.jpg'].map((path) => join(view.path!, path));
    const contents = victims.map((path) => readFileSync(path));
    for (const path of victims) writeFileSync(path, 'changed');
    const told = await deliver({ kind: 'folder', path: elsewhere });
    victims.forEach((path, at) => writeFileSync(path, contents[at]!));
    const said = told.log.map(({ text }) => text).join('\n');
    expect(said).toContain('10 of 12 files were opened and checked; 2 cannot go: web/p 1.jpg has been changed');
    expect(said).not.toContain('All files were opened');
    expect(told.problem!.message).toMatch(
      /^small\/p 4\.jpg stands there .* web\/p 1\.jpg has been changed.* The same holds for 1 more file\.$/,
    );
  });

  it('goes out flat without two files of one name, of chosen presets only', async () => {
    const flat = join(server.config.writeRoots[0]!, 'flat');
    await deliver({ kind: 'folder', path: flat }, { content: { layout: 'flat' } });
    expect(filesBelow(flat)).toContain('p 1-2.jpg');
    expect(filesBelow(flat)).toHaveLength(12);
    const preview = await server.call<DeliveryPreview>('POST', `/api/sets/${setId}/deliveries/preview`, {
      way: { kind: 'folder', path: flat },
      content: { layout: 'flat', presetIds: [presetIds[1]] },
    });
    expect(preview.json).toMatchObject({ files: 6, problem: null });
  });
});

describe('a ZIP', () => {
  it('is the same each time, as long as was said, and goes on where it broke off', async () => {
    const { id, counts } = await deliver({ kind: 'zip' }, { content: { manifest: true } });
    expect(counts).toMatchObject({ files: 13, sent: 13 });
    const url = `${server.url}/api/deliveries/${id}/files.zip`;
    const response = await fetch(url);
    const whole = Buffer.from(await response.arrayBuffer());
    expect(Number(response.headers.get('content-length'))).toBe(whole.length);
    const half = Math.floor(whole.length / 2);
    const rest = await fetch(url, { headers: { Range: `bytes=${half}-`, 'If-Range': response.headers.get('etag')! } });
    expect(rest.status).toBe(206);
    expect(Buffer.concat([whole.subarray(0, half), Buffer.from(await rest.arrayBuffer())]).equals(whole)).toBe(true);
    const path = join(mkdtempSync(join(tmpdir(), 'rundle-zip-')), 'quay.zip');
    writeFileSync(path, whole);
    expect(execFileSync('node', ['dist/rundle.js', 'verify', path], { encoding: 'utf8' })).toContain('12 of 12 files are as delivered');
  });
});

describe.each(['webdav', 'sftp'] as const)('a web space by %s', (kind) => {
  it('gets everything once and whole over a line that breaks five times, then only what has changed', async () => {
    const { receiver } = await addStandIn(kind);
    const port = receiver.kind === 'webdav' ? Number(new URL(receiver.address).port) : receiver.kind === 'sftp' ? receiver.port : 0;
    const line = await BreakingLine.open(port, 5, 30_000);
    const over =
      receiver.kind === 'webdav' ? { ...receiver, address: `http://127.0.0.1:${line.port}/dav` } : { ...receiver, port: line.port };
    const secret = (JSON.parse(readFileSync(join(server.config.data, 'stand-ins/addresses.json'), 'utf8')) as { password: string })
      .password;
    const { json: stored } = await server.call<StoredReceiver>('POST', '/api/receivers', { receiver: over, secret });
    const way = { kind: 'web', receiverId: stored.id, folder: `from-${kind}` };
    const told = await deliver(way);
    expect(told).toMatchObject({ state: 'done', counts: { files: 12, failed: 0 } });
    expect(line.broken()).toBe(5);
    expect(told.log.filter(({ text }) => text.includes('tried again')).length).toBeGreaterThan(0);
    const root = join(standIns.site, `from-${kind}`);
    const there = filesBelow(root);
    expect(there).toHaveLength(12); // nothing half, nothing aside
    const rows = await server.database.sequelize.query<{ path: string; sha256: string }>(
      'SELECT path, sha256 FROM delivery_files WHERE delivery_id = :id ORDER BY path',
      { type: QueryTypes.SELECT, replacements: { id: told.id } },
    );
    expect(Object.fromEntries(there.map((path) => [path, sha256(join(root, path))]))).toEqual(
      Object.fromEntries(rows.map(({ path, sha256: content }) => [path, content])),
    );
    expect((await deliver(way)).counts).toMatchObject({ kept: 12, sent: 0 });
    // Fewer files: what is old goes when that is wished, and is told beforehand.
    const fewer = { way: { ...way, removesOld: true }, content: { presetIds: [presetIds[0]] } };
    const preview = await server.call<DeliveryPreview>('POST', `/api/sets/${setId}/deliveries/preview`, fewer);
    expect(preview.json.old).toHaveLength(6);
    expect(preview.json.unchanged).toBe(6);
    expect((await deliver(fewer.way, { content: fewer.content })).counts).toMatchObject({ kept: 6, removed: 6 });
    expect(filesBelow(root)).toHaveLength(6);
    // What had gone before an interruption is not old when it goes on.
    const { json: view } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    const victim = join(view.path!, 'web/p 1.jpg');
    const content = readFileSync(victim);
    writeFileSync(victim, 'broken');
    const broken = await deliver({ ...fewer.way, folder: `again-${kind}` }, { content: fewer.content });
    expect(broken).toMatchObject({ state: 'failed', problem: { code: 'file-changed' }, counts: { sent: 5, failed: 1 } });
    writeFileSync(victim, content);
    await server.call('POST', `/api/deliveries/${broken.id}/resume`);
    expect(await ended(broken.id)).toMatchObject({ state: 'done', counts: { sent: 6, removed: 0 } });
    expect(filesBelow(join(standIns.site, `again-${kind}`))).toHaveLength(6);
    line.close();

    // What a run replaces while the line is down does not go as what it was, and no page tells of it.
    const down = await BreakingLine.open(port, 3, 0);
    const later =
      receiver.kind === 'webdav' ? { ...receiver, address: `http://127.0.0.1:${down.port}/dav` } : { ...receiver, port: down.port };
    const { json: late } = await server.call<StoredReceiver>('POST', '/api/receivers', { receiver: later, secret });
    const gallery = { layout: 'grid', title: 'Quay' };
    const { json: waiting } = await start(
      { kind: 'web', receiverId: late.id, folder: `late-${kind}` },
      { content: fewer.content, gallery },
    );
    await server.until(async () => (await detail(waiting.id)).state === 'sending');
    writeFileSync(victim, 'another run');
    expect(await ended(waiting.id)).toMatchObject({ state: 'failed', problem: { code: 'file-changed' }, counts: { failed: 1, made: 10 } });
    expect(filesBelow(join(standIns.site, `late-${kind}`))).toHaveLength(5);
    writeFileSync(victim, content);
    await server.call('POST', `/api/deliveries/${waiting.id}/resume`);
    expect(await ended(waiting.id)).toMatchObject({ state: 'done', counts: { files: 16, failed: 0 } });
    expect(filesBelow(join(standIns.site, `late-${kind}`))).toContain('index.html');
    down.close();
  });

  it('is tried without leaving anything, and says why it cannot be reached', async () => {
    const stored = await addStandIn(kind);
    const attempt = async (receiver: object, secret?: string) =>
      (
        await server.call<ReceiverTest>('POST', '/api/receivers/test', {
          receiver,
          receiverId: stored.id,
          ...(secret === undefined ? {} : { secret }),
        })
      ).json;
    const before = filesBelow(standIns.site);
    expect(await attempt(stored.receiver)).toMatchObject({ is: 'fine' });
    expect(filesBelow(standIns.site)).toEqual(before);
    expect((await attempt(stored.receiver, 'wrong')).says).toContain('does not know the user');
    const away =
      stored.receiver.kind === 'webdav' ? { ...stored.receiver, address: 'http://127.0.0.1:9/' } : { ...stored.receiver, port: 9 };
    expect((await attempt(away)).says).toContain('Nothing answers there');
    if (kind === 'sftp') {
      expect(await attempt({ ...stored.receiver, trusted: null })).toMatchObject({ is: 'unknown', fingerprint: /^SHA256:/ });
      expect((await attempt({ ...stored.receiver, trusted: `SHA256:${'A'.repeat(43)}` })).says).toContain('another key');
    }
  });
});

describe('mail', () => {
  it('is split under the limit, arrives once, or lies ready as files', async () => {
    const { id: receiverId } = await addStandIn('smtp');
    const mail = {
      kind: 'mail',
      to: ['desk@quay.example'],
      subject: '[set]: [part] of [parts]',
      text: 'Here are [files].',
      mostBytes: 1_000_000,
    };
    const heavy = await make('Heavy', { name: ORIGINAL, size: { px: 1600, enlarge: true }, file: { type: 'png' } });
    await run(setId, [heavy]);
    const tooHeavy = await deliver({ ...mail, receiverId }, { content: { presetIds: [heavy] } });
    expect(tooHeavy).toMatchObject({ state: 'failed', problem: { code: 'mail-too-heavy' } });
    const sent = await deliver({ ...mail, receiverId, mostBytes: 8_000_000 }, { content: { presetIds: [heavy] } });
    expect(sent.state).toBe('done');
    const own = standIns.box.letters.filter(({ messageId }) => messageId.includes(sent.id));
    expect(own.length).toBe(sent.messages.length);
    expect(own.length).toBeGreaterThan(1);
    expect(own.flatMap(({ attachments }) => attachments.map(({ name }) => name)).sort()).toEqual(
      Array.from({ length: 6 }, (_, at) => `p ${at + 1}.png`),
    );
    for (const { bytes } of own) expect(bytes).toBeLessThanOrEqual(8_000_000);
    expect(own.map(({ subject }) => subject).sort()[0]).toBe(`Quay évening: 1 of ${own.length}`);
    // What was taken before an interruption stays; what goes then has another Message-ID, for it is another message.
    const taken = own.length;
    const { json: again } = await start({ ...mail, receiverId, mostBytes: 8_000_000 }, { content: { presetIds: [heavy] } });
    await server.until(async () => (await detail(again.id)).messages.some((one) => one.sent));
    await server.call('POST', `/api/deliveries/${again.id}/cancel`);
    await ended(again.id);
    await server.call('POST', `/api/deliveries/${again.id}/resume`);
    expect(await ended(again.id)).toMatchObject({ state: 'done', counts: { sent: 6 } });
    const both = standIns.box.letters.filter(({ messageId }) => messageId.includes(again.id));
    expect(new Set(both.map(({ messageId }) => messageId)).size).toBe(both.length);
    expect([...new Set(both.flatMap(({ attachments }) => attachments.map(({ name }) => name)))]).toHaveLength(6);
    expect(taken).toBeGreaterThan(1);
    // What a server announces (RFC 1870) is the limit, whatever is written down.
    const announced = await deliver({ ...mail, receiverId, mostBytes: 50_000_000 }, { content: { presetIds: [heavy] } });
    expect(announced.log.some(({ text }) => text.includes('The server takes messages up to 10.0 MB'))).toBe(true);
    for (const { bytes } of standIns.box.letters.filter(({ messageId }) => messageId.includes(announced.id)))
      expect(bytes).toBeLessThan(10e6);
    // To somebody by name, light, and in one message: nothing says "1 of 1".
    const one = await deliver(
      { ...mail, receiverId, to: ['Büro <desk@quay.example>'], mostBytes: 300_000 },
      { content: { presetIds: [presetIds[1]] } },
    );
    const [letter] = standIns.box.letters.filter(({ messageId }) => messageId.includes(one.id));
    expect(letter).toMatchObject({
      subject: 'Quay évening',
      to: ['desk@quay.example'],
      text: expect.stringContaining('Here are 6.') as string,
    });
    const files = await deliver({ ...mail, receiverId: null }, { content: { presetIds: [presetIds[0]] } });
    expect(files.messages).toMatchObject([{ number: 1, files: 6, sent: true }]);
    const message = await (await fetch(`${server.url}/api/deliveries/${files.id}/message.eml?number=1`)).text();
    expect(message).toMatch(/^X-Unsent: 1/m);
    expect(message).toContain('filename="p 6.jpg"');
  });
});

describe('the house rules of the receiver', () => {
  it('are held against the files themselves, and nothing goes before somebody has decided', async () => {
    const rules = HouseRules.parse({ title: 'Narrow Shop', mostPixels: 300, spaces: ['srgb'] });
    const { json } = await server.call<{ id: string }>('POST', '/api/house-rules', rules);
    await server.call('PATCH', `/api/sets/${setId}`, { houseRulesId: json.id });
    const folder = join(server.config.writeRoots[0]!, 'held');
    const content = { presetIds };
    const held = await deliver({ kind: 'folder', path: folder }, { content });
    expect(held.state).toBe('held');
    expect(held.findings).toHaveLength(6);
    expect(held.findings[0]!.finding.message).toContain('Narrow Shop takes 300 px at most');
    expect(existsSync(folder)).toBe(false);
    await server.call('POST', `/api/deliveries/${held.id}/decide`, { send: 'without' });
    expect(await ended(held.id)).toMatchObject({ state: 'done', counts: { sent: 6, left: 6 } });
    expect(filesBelow(folder).every((name) => name.startsWith('small/'))).toBe(true);
    await server.call('PATCH', `/api/sets/${setId}`, { houseRulesId: null });
  });
});

describe('what is secret', () => {
  it('is kept encrypted under a key of its owner’s, never told, and in no log', async () => {
    const secret = 'a very secret word';
    const receiver = { kind: 'webdav', title: 'Hidden', address: 'http://127.0.0.1:9/dav', user: 'me' };
    const { json } = await server.call<StoredReceiver>('POST', '/api/receivers', { receiver, secret });
    await server.call('POST', '/api/receivers/test', { receiver, receiverId: json.id });
    await server.call('PUT', `/api/receivers/${json.id}`, { receiver: { ...receiver, title: 'Still hidden' } });
    const listed = await server.call<StoredReceiver[]>('GET', '/api/receivers');
    const elsewhere = { ...receiver, address: 'http://127.0.0.1:10/dav' };
    const { json: moved } = await server.call<StoredReceiver>('POST', '/api/receivers', { receiver, secret });
    const { json: other } = await server.call<StoredReceiver>('PUT', `/api/receivers/${moved.id}`, { receiver: elsewhere });
    expect(other.hasSecret).toBe(false);
    expect(listed.json.find(({ id }) => id === json.id)).toMatchObject({ hasSecret: true, receiver: { title: 'Still hidden' } });
    expect(JSON.stringify(listed.json)).not.toContain(secret);
    const row = await server.database.receivers.findByPk(json.id);
    expect(row!.secret!.includes(secret)).toBe(false);
    expect(statSync(join(server.config.data, 'secrets.key')).mode & 0o777).toBe(0o600);
    expect(lines.join('\n')).not.toContain(secret);
  });
});
