import { createHash } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import ssh2 from 'ssh2';

const { utils } = ssh2;

/** The key by which the SFTP host shows that it is the same as before: made once, kept. */
export async function hostKey(folder: string): Promise<{ privateKey: string; fingerprint: string }> {
  const path = join(folder, 'host.key');
  let text = await readFile(path, 'utf8').catch(() => null);
  if (text === null) {
    text = utils.generateKeyPairSync('ed25519').private;
    await writeFile(path, text, { mode: 0o600 });
  }
  const parsed = utils.parseKey(text);
  if (parsed instanceof Error) throw parsed;
  const hash = createHash('sha256').update(parsed.getPublicSSH()).digest('base64');
  return { privateKey: text, fingerprint: `SHA256:${hash.replace(/=+$/, '')}` };
}
