import { Decrypter, Encrypter } from 'age-encryption';
import { BackupProblem } from './repository';

/** For whom something is sealed: whoever knows a passphrase, or has the private key that belongs to a public one. */
export type Seal = { kind: 'passphrase'; passphrase: string } | { kind: 'key'; recipient: string };

/** How something is opened again. */
export type Opener = { kind: 'passphrase'; passphrase: string } | { kind: 'key'; identity: string };

/** Seals a small secret by the age format (age-encryption.org/v1). */
export async function sealed(secret: Uint8Array, seal: Seal): Promise<Uint8Array> {
  const encrypter = new Encrypter();
  if (seal.kind === 'passphrase') encrypter.setPassphrase(seal.passphrase);
  else encrypter.addRecipient(seal.recipient);
  return encrypter.encrypt(secret);
}

/** @throws BackupProblem when it was sealed for somebody else */
export async function opened(sealedSecret: Uint8Array, opener: Opener): Promise<Uint8Array> {
  const decrypter = new Decrypter();
  try {
    if (opener.kind === 'passphrase') decrypter.addPassphrase(opener.passphrase);
    else decrypter.addIdentity(opener.identity);
    return await decrypter.decrypt(sealedSecret);
  } catch {
    throw new BackupProblem(
      opener.kind === 'passphrase'
        ? 'The key to passwords is sealed, and this passphrase does not open it. Nothing was restored.'
        : 'The key to passwords is sealed, and this private key does not open it. Nothing was restored.',
    );
  }
}
