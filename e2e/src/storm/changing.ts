import { createHash } from 'node:crypto';
import { appendFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { type HandOverView, type MasterPage, Preset, type RunDetail, type StoredPreset } from '@rundle/core';
import { pick } from './random';
import type { Studio } from './studio';

const counter = (text: string) => [
  { part: 'text', text },
  { part: 'counter', digits: 3, start: 1, step: 1 },
];

/** What a preset may become between two runs. */
const CHANGES: readonly object[] = [
  { name: { parts: counter('calm-') } },
  { name: { parts: counter('gale-') } },
  { name: { parts: [{ part: 'original' }] } },
  { folder: 'bow' },
  { folder: 'stern' },
  { size: { px: 420 } },
  { size: { px: 360 } },
  { file: { type: 'webp' } },
  { file: { type: 'jpeg' } },
];

/** A set that is changed between its runs in all ways, and at its end has to be what a fresh studio would make of it. */
export class ChangingSet {
  private removed: string[] = [];
  private readonly edited = new Set<string>();

  private constructor(
    private readonly studio: Studio,
    private readonly setId: string,
    private readonly presets: StoredPreset[],
    private readonly data: string,
  ) {}

  static async of(studio: Studio, folder: string, count: number, data: string): Promise<ChangingSet> {
    const setId = await studio.setOf('Changing', folder, count);
    const presets: StoredPreset[] = [];
    for (const [title, more] of [
      ['Bow', { folder: 'bow', size: { px: 420 }, name: { parts: counter('calm-') } }],
      ['Stern', { folder: 'stern', size: { px: 360 }, name: { parts: counter('gale-') } }],
    ] as const) {
      const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, ...more });
      presets.push(await studio.call<StoredPreset>('POST', '/api/presets', body));
    }
    return new ChangingSet(studio, setId, presets, data);
  }

  /** Changes order, pictures, presets, and files on the disk. */
  async change(random: () => number): Promise<void> {
    const { masters } = await this.studio.call<MasterPage>('GET', `/api/sets/${this.setId}/masters`);
    const shuffled = masters.map(({ id }) => ({ id, at: random() })).toSorted((a, b) => a.at - b.at);
    await this.studio.call('PUT', `/api/sets/${this.setId}/order`, { masterIds: shuffled.map(({ id }) => id) });
    if (this.removed.length && random() < 0.5) {
      await this.studio.call('POST', `/api/sets/${this.setId}/masters/restore`, { masterIds: this.removed });
      this.removed = [];
    } else {
      const gone = shuffled.slice(0, 2).map(({ id }) => id);
      await this.studio.call('POST', `/api/sets/${this.setId}/masters/remove`, { masterIds: gone });
      this.removed.push(...gone);
    }
    const changed = pick(this.presets, random);
    const { preset } = await this.studio.call<StoredPreset>('GET', `/api/presets/${changed.id}`);
    await this.studio.call('PUT', `/api/presets/${changed.id}`, Preset.parse({ ...preset, ...pick(CHANGES, random) }));
    const files = Object.keys(listed(this.target(this.setId, 'Changing'))).filter((path) => !this.edited.has(path));
    if (files.length < 3) return;
    rmSync(join(this.target(this.setId, 'Changing'), pick(files, random)), { force: true });
    const edited = pick(files, random);
    if (!existsSync(join(this.target(this.setId, 'Changing'), edited))) return;
    appendFileSync(join(this.target(this.setId, 'Changing'), edited), 'somebody’s');
    this.edited.add(edited);
  }

  run(): Promise<string> {
    return this.studio.run(
      this.setId,
      this.presets.map(({ id }) => id),
      'go',
    );
  }

  /** Whether the folder is what a fresh studio would make of the set as it is now, beside what somebody has changed. */
  async isAsFresh(folder: string, count: number): Promise<boolean> {
    const own = this.target(this.setId, 'Changing');
    await this.ended(await this.run());
    const { masters } = await this.studio.call<MasterPage>('GET', `/api/sets/${this.setId}/masters`);
    const freshId = await this.studio.setOf('Fresh', folder, count);
    const all = (await this.studio.call<MasterPage>('GET', `/api/sets/${freshId}/masters`)).masters;
    const twins = masters.map(({ fileName }) => all.find((one) => one.fileName === fileName)!.id);
    const others = all.map(({ id }) => id).filter((id) => !twins.includes(id));
    if (others.length) await this.studio.call('POST', `/api/sets/${freshId}/masters/remove`, { masterIds: others });
    await this.studio.call('PUT', `/api/sets/${freshId}/order`, { masterIds: twins });
    const fresh = this.target(freshId, 'Fresh');
    for (const path of this.edited) {
      mkdirSync(dirname(join(fresh, path)), { recursive: true });
      writeFileSync(join(fresh, path), readFileSync(join(own, path)));
    }
    const presetIds = this.presets.map(({ id }) => id);
    await this.ended(await this.studio.run(freshId, presetIds, 'go'));
    const { outputs } = await this.studio.call<HandOverView>('GET', `/api/sets/${this.setId}/outputs`);
    return outputs.every(({ file }) => file === 'stands') && JSON.stringify(listed(own)) === JSON.stringify(listed(fresh));
  }

  private async ended(runId: string): Promise<RunDetail> {
    for (;;) {
      const run = await this.studio.detail(runId);
      if (run.state === 'done' || run.state === 'cancelled') return run;
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }

  /** Rundle's own folder for a set. */
  private target(setId: string, title: string): string {
    return join(this.data, 'outputs', `${title} ${setId.slice(0, 8)}`);
  }
}

/** Files below a folder by their paths, and what is in them. */
function listed(folder: string, below = ''): Record<string, string> {
  if (!existsSync(join(folder, below))) return {};
  const found = readdirSync(join(folder, below), { withFileTypes: true }).flatMap((entry): [string, string][] => {
    const path = below ? `${below}/${entry.name}` : entry.name;
    if (entry.isDirectory()) return Object.entries(listed(folder, path));
    return [
      [
        path,
        createHash('sha256')
          .update(readFileSync(join(folder, path)))
          .digest('hex'),
      ],
    ];
  });
  return Object.fromEntries(found.toSorted(([a], [b]) => (a < b ? -1 : 1)));
}
