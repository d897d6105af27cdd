import { homedir } from 'node:os';
import { delimiter, join, resolve } from 'node:path';
import { readConfig } from '@rundle/store';
import { describe, expect, it } from 'vitest';

const RUNDLE_DATABASE_URL = 'postgres://rundle@127.0.0.1:5432/rundle';

describe('the configuration', () => {
  it('needs no more than the database; folders are absolute', () => {
    expect(readConfig({ RUNDLE_DATABASE_URL })).toEqual({
      databaseUrl: RUNDLE_DATABASE_URL,
      data: join(process.cwd(), 'data'),
      port: 4820,
      web: join(process.cwd(), 'dist/web/browser'),
      demoMasters: '',
      uploadBytes: 2e9,
      roots: [homedir()],
      writeRoots: [],
      studio: '',
      standIns: true,
      metricsToken: '',
      logLevel: 'info',
    });
  });

  it('takes several folders that pictures may be brought in from, or none', () => {
    const roots = (text: string) => readConfig({ RUNDLE_DATABASE_URL, RUNDLE_ROOTS: text }).roots;
    expect(roots(['/mnt/jobs', '', '/srv/card'].join(delimiter))).toEqual(['/mnt/jobs', '/srv/card']);
    expect(roots('')).toEqual([]);
    const writeRoots = readConfig({ RUNDLE_DATABASE_URL, RUNDLE_WRITE_ROOTS: ['/mnt/out', 'here'].join(delimiter) }).writeRoots;
    expect(writeRoots).toEqual(['/mnt/out', resolve('here')]);
  });

  it.each([
    ['RUNDLE_DATABASE_URL', 'mysql://elsewhere'],
    ['RUNDLE_DATABASE_URL', undefined],
    ['RUNDLE_PORT', '70000'],
    ['RUNDLE_PORT', 'eighty'],
    ['RUNDLE_UPLOAD_MB', '0'],
    ['RUNDLE_LOG', 'loud'],
  ])('names what is wrong: %s=%s', (name, value) => {
    expect(() => readConfig({ RUNDLE_DATABASE_URL, [name]: value })).toThrow(`The environment variable ${name} is wrong`);
  });
});
