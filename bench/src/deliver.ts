import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Delivery, type HandOverView, Receiver, type Run, type SetDetail, type StoredPreset, type StoredReceiver } from '@rundle/core';
import sharp from 'sharp';
import { Application } from '../../e2e/src/application';
import { allRead, call as callOf } from '../../e2e/src/new-set';
import { BreakingLine } from '../../packages/transport/test/breaking-line';
import { figureRow, ROOT, work } from './measure';
import type { Row } from './report';

/*
 * Deliveries of 500 files to the made-up receivers, over a line that breaks five times; and how fast they go where it does not.
 */

const PICTURES = 250;
const BREAKS = 5;

interface Addresses {
  webdav: string;
  sftp: { port: number; fingerprint: string };
  smtp: { port: number };
  user: string;
  password: string;
}

export async function deliver(): Promise<Row[]> {
  const folder = join(work, 'deliver-masters');
  mkdirSync(folder);
  const base = readdirSync(join(ROOT, 'demo/base'));
  const small = await Promise.all(
    base.map((name) =>
      sharp(join(ROOT, 'demo/base', name))
        .resize(900)
        .jpeg({ quality: 90 })
        .toBuffer(),
    ),
  );
  for (let at = 0; at < PICTURES; at++) writeFileSync(join(folder, `p-${at}.jpg`), small[at % small.length]!);
  process.env['RUNDLE_ROOTS'] = work;
  const application = await Application.start('');
  try {
    return await measure(application, folder);
  } finally {
    await application.stop();
  }
}

async function measure(application: Application, masters: string): Promise<Row[]> {
  const call = <T>(method: string, path: string, body?: object) => callOf<T>(application, method, path, body);
  const { id: setId } = await call<SetDetail>('POST', '/api/sets', { title: 'Five hundred' });
  await call('POST', `/api/sets/${setId}/masters/from-machine`, { path: masters, deeper: false });
  await allRead(application, setId);
  const presetIds: string[] = [];
  for (const px of [850, 480]) {
    const own = { kind: 'rundle.preset', version: 1, title: `Edge ${px}`, size: { px }, folder: `edge-${px}`, existing: 'replace' };
    presetIds.push((await call<StoredPreset>('POST', '/api/presets', own)).id);
  }
  const { id: runId } = await call<Run>('POST', `/api/sets/${setId}/runs`, { presetIds });
  await until(async () => (await call<Run>('GET', `/api/runs/${runId}`)).state === 'done');
  const { outputs, path } = await call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
  const addresses = JSON.parse(readFileSync(join(application.data, 'stand-ins/addresses.json'), 'utf8')) as Addresses;
  const site = join(application.data, 'stand-ins/site');
  const expected = outputs.map(({ folder, fileName }) => join(folder, fileName)).sort();

  const run = async (way: object): Promise<{ seconds: number; delivery: Delivery }> => {
    const begun = performance.now();
    const { id } = await call<Delivery>('POST', `/api/sets/${setId}/deliveries`, { way, content: {} });
    let delivery: Delivery;
    do {
      await new Promise((resolve) => setTimeout(resolve, 50));
      delivery = await call<Delivery>('GET', `/api/deliveries/${id}`);
    } while (delivery.state === 'checking' || delivery.state === 'sending');
    return { seconds: (performance.now() - begun) / 1000, delivery };
  };
  /** Files that are missing, other than they should be, or too many. */
  const wrongIn = (folder: string): number => {
    const there = readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((one) =>
      one.isFile() ? [join(one.parentPath, one.name).slice(folder.length + 1)] : [],
    );
    const same = expected.filter((name) => there.includes(name) && hashOf(join(folder, name)) === hashOf(join(path!, name)));
    return expected.length - same.length + there.filter((name) => !expected.includes(name)).length;
  };

  const rows: Row[] = [];
  const spaces = [
    { kind: 'webdav', name: 'WebDAV', port: Number(new URL(addresses.webdav).port) },
    { kind: 'sftp', name: 'SFTP', port: addresses.sftp.port },
  ] as const;
  for (const { kind, name, port } of spaces) {
    const receiverOver = async (at: number) => {
      const { user, password, sftp } = addresses;
      const own =
        kind === 'webdav'
          ? { address: `http://127.0.0.1:${at}/dav`, user }
          : { host: '127.0.0.1', port: at, user, trusted: sftp.fingerprint };
      const receiver = Receiver.parse({ kind, title: name, ...own });
      return (await call<StoredReceiver>('POST', '/api/receivers', { receiver, secret: password })).id;
    };
    const bytes = outputs.reduce((sum, output) => sum + output.bytes, 0);
    const line = await BreakingLine.open(port, BREAKS, bytes / (BREAKS + 2));
    const broken = await run({ kind: 'web', receiverId: await receiverOver(line.port), folder: `${kind}-broken` });
    line.close();
    if (line.broken() !== BREAKS || broken.delivery.state !== 'done')
      throw new Error(`${name}: ${broken.delivery.state}, broken ${line.broken()} times.`);
    rows.push(
      figureRow(
        `500 files by ${name} over a line that is cut five times: missing, half or doubled`,
        wrongIn(join(site, `${kind}-broken`)),
        '0',
        (count) => count === 0,
      ),
      figureRow(`The same: how long it takes (s)`, broken.seconds, 'reported', () => true),
    );
    const whole = await run({ kind: 'web', receiverId: await receiverOver(port), folder: `${kind}-whole` });
    rows.push(
      kind === 'webdav'
        ? againstCurl(whole.seconds, addresses, path!, expected)
        : figureRow(`500 files by ${name} over a line that holds (s)`, whole.seconds, 'reported', () => true),
    );
  }
  rows.push(await mailed(call, run, addresses));
  return rows;
}

/** The same files put by curl, a general tool, over one connection, straight under their names. */
function againstCurl(ours: number, { webdav, user, password }: Addresses, root: string, files: readonly string[]): Row {
  const login = ['-s', '-u', `${user}:${password}`];
  for (const folder of ['curl', ...new Set(files.map((file) => `curl/${file.split('/')[0]}`))])
    execFileSync('/usr/bin/curl', [...login, '-X', 'MKCOL', `${webdav}/${folder}`]);
  const list = join(work, 'curl');
  const lines = files.map((file) => `upload-file = "${join(root, file)}"\nurl = "${webdav}/curl/${file}"\n`);
  writeFileSync(list, lines.join(''));
  const begun = performance.now();
  execFileSync('/usr/bin/curl', [...login, '-K', list]);
  const theirs = (performance.now() - begun) / 1000;
  rmSync(list);
  return {
    what: '500 files by WebDAV: checked, written aside, looked at and moved into place, against curl that puts them straight',
    ours: `${ours.toFixed(1)} s`,
    against: `curl, one connection: ${theirs.toFixed(1)} s`,
    goal: 'reported',
    figures: [theirs / ours],
    figure: theirs / ours,
    met: true,
  };
}

async function mailed(
  call: <T>(method: string, path: string, body?: object) => Promise<T>,
  run: (way: object) => Promise<{ seconds: number; delivery: Delivery }>,
  { smtp, user, password }: Addresses,
): Promise<Row> {
  const line = await BreakingLine.open(smtp.port, BREAKS, 3_000_000);
  const own = { kind: 'smtp', title: 'Mail', host: '127.0.0.1', port: line.port, security: 'none', user, from: 'studio@emberquay.example' };
  const { id: receiverId } = await call<StoredReceiver>('POST', '/api/receivers', { receiver: Receiver.parse(own), secret: password });
  const way = { kind: 'mail', receiverId, to: ['desk@emberquay.example'], subject: '[part] of [parts]', text: '', mostBytes: 2_000_000 };
  const { delivery } = await run(way);
  line.close();
  const { mailBox } = await call<{ mailBox: string }>('GET', '/api/receivers/stand-ins');
  const letters = (await (await fetch(new URL('letters', mailBox))).json()) as { messageId: string; attachments: { name: string }[] }[];
  const arrived = letters.filter(({ messageId }) => messageId.includes(delivery.id));
  const attached = arrived.flatMap(({ attachments }) => attachments);
  const wrong =
    Math.abs(arrived.length - delivery.messages.length) +
    Math.abs(attached.length - delivery.counts.files) +
    (delivery.state === 'done' ? 0 : 1);
  return figureRow(
    `500 files in ${delivery.messages.length} messages over a line that is cut five times: missing or doubled`,
    wrong,
    '0',
    (count) => count === 0,
  );
}

const hashOf = (path: string): string => createHash('sha256').update(readFileSync(path)).digest('hex');

async function until(is: () => Promise<boolean>): Promise<void> {
  while (!(await is())) await new Promise((resolve) => setTimeout(resolve, 500));
}
