import { request } from 'node:http';
import { HouseRules, Preset, StudioDetails } from '@rundle/core';

/** Ids that are there, so that requests get past the door. */
export interface KnownIds {
  sets: string[];
  masters: string[];
  presets: string[];
  runs: string[];
  rules: string[];
}

export interface Call {
  /** Path of the endpoint, its parameters in braces. */
  template: string;
  method: string;
  path: string;
  headers: Record<string, string>;
  body: Buffer | null;
}

const NOBODY = '7f1f6f3e-0000-4000-8000-000000000000';

/** Makes requests of which most are wrong somewhere. */
export class Fuzz {
  constructor(
    private readonly random: () => number,
    private readonly paths: readonly { method: string; path: string }[],
    private readonly ids: KnownIds,
  ) {}

  next(): Call {
    const { method, path } = this.pick(this.paths);
    const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => inAddress(this.idFor(name)));
    const query = this.chance(0.15) ? `?${inAddress(this.word())}=${inAddress(this.text())}&path=${inAddress(this.text())}&from=-1` : '';
    const body = method === 'get' ? null : this.body(path);
    const headers: Record<string, string> = body ? { 'content-type': 'application/json' } : {};
    if (this.chance(0.2)) Object.assign(headers, this.oddHeaders());
    return { template: path, method: method.toUpperCase(), path: `${filled}${query}`.slice(0, 8000), headers, body };
  }

  private body(path: string): Buffer {
    if (this.chance(0.05)) return Buffer.from('['.repeat(this.pick([40, 5000, 100_000])));
    if (this.chance(0.05)) return Buffer.from(`{"title":${'{"a":'.repeat(200)}1${'}'.repeat(200)}}`);
    if (this.chance(0.05)) return Buffer.from(Array.from({ length: 60 }, () => Math.floor(256 * this.random())));
    const valid = this.validFor(path);
    const mutated = this.chance(0.85) ? this.mutated(valid) : valid;
    return Buffer.from(JSON.stringify(mutated) ?? 'null');
  }

  private validFor(path: string): unknown {
    const ids = (of: string[]) => [this.pick([...of, NOBODY])];
    if (path.endsWith('/marks'))
      return { marks: [{ masterId: this.pick([...this.ids.masters, NOBODY]), stars: 3, tags: ['a'], overrides: {} }] };
    if (path.endsWith('/again') && path.includes('masters/again')) return { twins: [{ fileName: 'a.jpg', sha256: 'a'.repeat(64) }] };
    if (/order|remove|restore|read-again/.test(path)) return { masterIds: ids(this.ids.masters) };
    if (path.endsWith('from-machine')) return { path: '/nowhere', deeper: true };
    if (/plan|runs$|vet$/.test(path)) return { presetIds: ids(this.ids.presets) };
    if (path.startsWith('/api/presets')) return Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X' });
    if (path.startsWith('/api/house-rules')) return HouseRules.parse({ title: 'X' });
    if (path.startsWith('/api/studio')) return StudioDetails.parse({ creator: 'X' });
    if (path.startsWith('/api/watermarks')) return { kind: 'text', title: 'X', text: 'X', colour: '#ffffff' };
    if (path === '/api/sets') return { title: 'X' };
    return { title: 'X', filter: {}, presetIds: ids(this.ids.presets), houseRulesId: this.pick([...this.ids.rules, NOBODY]) };
  }

  /** One place of a value becomes something else. */
  private mutated(value: unknown): unknown {
    if (value === null || typeof value !== 'object' || this.chance(0.15)) return this.junk();
    if (Array.isArray(value)) {
      if (this.chance(0.2)) return Array.from({ length: this.pick([0, 200, 6000]) }, () => (value as unknown[])[0] ?? this.junk());
      return value.map((item, at) => (at === 0 ? this.mutated(item) : (item as unknown)));
    }
    const entries = Object.entries(value);
    if (this.chance(0.1)) return { ...value, [this.word()]: this.junk() };
    const at = Math.floor(this.random() * entries.length);
    return Object.fromEntries(entries.map(([key, inside], index) => [key, index === at ? this.mutated(inside) : (inside as unknown)]));
  }

  private junk(): unknown {
    const values: unknown[] = [null, true, -1, 0, 1.5, 1e308, 2 ** 53, '', [], {}, 'x'.repeat(5000), this.text(), this.text(), [[]]];
    values.push(
      JSON.parse('{"__proto__":1,"constructor":2}'),
      Array.from({ length: 500 }, () => 'tag'),
      NOBODY,
      '2026-13-99',
    );
    return this.pick(values);
  }

  private text(): string {
    return this.pick([
      '\0',
      'a\0b',
      '\ud800',
      '\udc00x',
      '%00',
      '\u202e',
      '😀'.repeat(40),
      "'; DROP TABLE sets; --",
      '\r\nX: y',
      '..',
      '/',
      '\u2028',
      'é̂',
    ]);
  }

  private word(): string {
    return this.pick(['__proto__', 'constructor', 'title', 'kind', 'a', 'id', '', '\ud800', '\0']);
  }

  private idFor(name: string): string {
    const known: Record<string, string[]> = {
      setId: this.ids.sets,
      masterId: this.ids.masters,
      presetId: this.ids.presets,
      runId: this.ids.runs,
      houseRulesId: this.ids.rules,
    };
    return this.chance(0.8) ? this.pick([...(known[name] ?? []), NOBODY]) : this.text();
  }

  private oddHeaders(): Record<string, string> {
    return this.pick([
      { range: 'bytes=9-1' },
      { range: 'bytes=0-0,2-3' },
      { range: 'x' },
      { 'if-none-match': '"x"' },
      { 'if-modified-since': 'never' },
      { 'content-type': 'text/plain' },
      { 'content-encoding': 'gzip' },
      { 'content-type': 'application/json; charset=utf-99' },

      { cookie: `secret-cookie=${'c'.repeat(50)}` },
      { authorization: 'Bearer secret-token' },
      { 'upload-offset': '-1', 'tus-resumable': '1.0.0' },

      { 'tus-resumable': '1.0.0', 'upload-length': '99999999999999999999', 'upload-metadata': 'setId eA==,filename !!' },
      { expect: '100-continue' },
    ]);
  }

  private chance(share: number): boolean {
    return this.random() < share;
  }

  private pick<T>(values: readonly T[]): T {
    return values[Math.floor(this.random() * values.length)]!;
  }
}

/** As part of an address; halves of characters as the bytes that some programs make of them. */
function inAddress(text: string): string {
  try {
    return encodeURIComponent(text);
  } catch {
    return '%ED%A0%80';
  }
}

export interface Answered {
  /** 0: no answer in time; -1: the line broke. */
  status: number;
  /** Of a refusal. */
  code: string | null;
}

/** Sends a request as it is, however odd. */
export function send(port: number, { method, path, headers, body }: Call, withinMs = 60_000): Promise<Answered> {
  return new Promise((resolve) => {
    const length = body ? { 'content-length': String(body.length) } : {};
    const call = request({ host: '127.0.0.1', port, method, path, headers: { ...headers, ...length } }, (response) => {
      const status = response.statusCode ?? 0;
      // Events never end by themselves.
      if (path.includes('/events') && status === 200) {
        resolve({ status, code: null });
        call.destroy();
        return;
      }
      const parts: Buffer[] = [];
      response.on('data', (part: Buffer) => parts.push(part));
      response.once('close', () => resolve({ status, code: codeIn(response.headers['content-type'], Buffer.concat(parts)) }));
    });
    call.setTimeout(withinMs, () => {
      resolve({ status: 0, code: null });
      call.destroy();
    });
    call.once('error', () => resolve({ status: -1, code: null }));
    call.end(body ?? undefined);
  });
}

function codeIn(type: string | undefined, body: Buffer): string | null {
  return type?.startsWith('application/problem+json') ? (JSON.parse(body.toString()) as { code: string }).code : null;
}
