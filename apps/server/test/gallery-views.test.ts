import { get, type IncomingMessage } from 'node:http';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { GALLERY_FILES, galleryPaths, type HandOverView, Preset, type RunDetail, type StoredPreset } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

let server: TestServer;
let setId: string;
beforeAll(async () => {
  server = await TestServer.start();
  setId = await server.set('Quay', 3, 600);
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', size: { px: 300 }, folder: 'web' });
  const { json: web } = await server.call<StoredPreset>('POST', '/api/presets', body);
  const { json: run } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [web.id] });
  await server.until(async () => (await server.call<RunDetail>('GET', `/api/runs/${run.id}`)).json.state === 'done');
});
afterAll(() => server?.stop());

const view = async (more: object = {}) => {
  const gallery = { layout: 'grid', title: 'Evening on the quay', ...more };
  return server.call<{ page: string }>('POST', `/api/sets/${setId}/gallery-view`, { way: { kind: 'zip' }, content: {}, gallery });
};
/** As a caller that sends an address as it is: fetch would shorten it. */
const raw = (path: string): Promise<IncomingMessage> =>
  new Promise((resolve, reject) =>
    get({ host: '127.0.0.1', port: new URL(server.url).port, path }, (response) => resolve(response.resume())).once('error', reject),
  );

describe('a gallery that is looked at before it goes', () => {
  it('has all that its page asks for', async () => {
    const { status, json } = await view({ downloads: 'all' });
    expect(status).toBe(200);
    const address = new URL(json.page, server.url);
    const html = await (await fetch(address)).text();
    expect(html).toContain('Evening on the quay');
    const asked = [...html.matchAll(/(?:src|href)="([^"#][^"]*)"/g)].map(([, path]) => path!.replaceAll('&amp;', '&'));
    expect(asked.filter((path) => path.startsWith('pictures/web/')).length).toBeGreaterThanOrEqual(3);
    for (const path of [...asked, ...galleryPaths({ downloads: 'all' })])
      expect([path, (await fetch(new URL(path, address))).status]).toEqual([path, 200]);
    const zip = await fetch(new URL(GALLERY_FILES.zip, address));
    expect(Number(zip.headers.get('content-length'))).toBe((await zip.arrayBuffer()).byteLength);
  });

  it('gives nothing that is not on its page', async () => {
    const { json } = await view();
    const root = json.page.slice(0, json.page.lastIndexOf('/'));
    // No ZIP was wished.
    for (const path of [
      '../../secrets.key',
      '..%2f..%2fsecrets.key',
      'pictures/%2e%2e/%2e%2e/x',
      'pictures/web/none.jpg',
      GALLERY_FILES.zip,
    ])
      expect([path, (await raw(`${root}/${path}`)).statusCode]).toEqual([path, 404]);
    expect((await raw(`/api/galleries/${crypto.randomUUID()}/index.html`)).statusCode).toBe(404);
  });

  it('does not show what has been changed since as what was looked at', async () => {
    const { json } = await view();
    const { json: there } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    const { folder, fileName } = there.outputs[0]!;
    const shown = new URL(`pictures/${folder}/${fileName}`, new URL(json.page, server.url));
    expect((await fetch(shown)).status).toBe(200);
    writeFileSync(join(there.path!, folder, fileName), 'something else');
    expect((await fetch(shown)).status).toBe(404);
  });

  it('makes room for others after some, and what asks for no gallery is told so', async () => {
    const { json: first } = await view();
    for (let more = 0; more < 4; more++) await view();
    expect((await fetch(new URL(first.page, server.url))).status).toBe(404);
    const none = await server.call('POST', `/api/sets/${setId}/gallery-view`, { way: { kind: 'zip' }, content: {} });
    expect(none).toMatchObject({ status: 422, json: { code: 'no-delivery' } });
  });
});
