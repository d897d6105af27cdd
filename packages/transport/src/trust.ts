import { createHash } from 'node:crypto';
import { connect, type ConnectionOptions, type DetailedPeerCertificate } from 'node:tls';
import { type Problem, ProblemError } from '@rundle/core';

/** The fingerprint of a key or certificate, as OpenSSH prints it. */
export const fingerprintOf = (raw: Uint8Array): string => `SHA256:${createHash('sha256').update(raw).digest('base64').replace(/=+$/, '')}`;

/** A key or certificate for which nobody vouches, or another one than is trusted. */
export class NotTrusted extends ProblemError {
  constructor(
    readonly fingerprint: string,
    message: string,
  ) {
    super({ code: 'not-trusted', message } satisfies Problem);
  }
}

/** Errors of TLS that say that nobody known vouches for a certificate (OpenSSL, X509_verify_cert_error_string). */
const NOBODY_VOUCHES = [
  'DEPTH_ZERO_SELF_SIGNED_CERT',
  'SELF_SIGNED_CERT_IN_CHAIN',
  'UNABLE_TO_VERIFY_LEAF_SIGNATURE',
  'UNABLE_TO_GET_ISSUER_CERT',
  'UNABLE_TO_GET_ISSUER_CERT_LOCALLY',
  'ERR_TLS_CERT_ALTNAME_INVALID',
];

/**
 * What TLS is told so that one certificate is accepted, and no other: the very one that a person has trusted. Without one, the authorities that
 * Node.js knows decide.
 * @throws NotTrusted, ProblemError `not-reached`
 */
export async function tlsFor(host: string, port: number, trusted: string | null): Promise<ConnectionOptions> {
  if (trusted === null) return {};
  const certificate = await presented(host, port);
  const fingerprint = fingerprintOf(certificate.raw);
  if (fingerprint !== trusted)
    throw new NotTrusted(
      fingerprint,
      `${host} shows another certificate than the one that is trusted. Ask its owner before anything is sent.`,
    );
  const pem = `-----BEGIN CERTIFICATE-----\n${certificate.raw.toString('base64').replace(/.{64}/g, '$&\n')}\n-----END CERTIFICATE-----\n`;
  return {
    ca: pem,
    checkServerIdentity: (_name, shown) =>
      fingerprintOf(shown.raw) === trusted ? undefined : new Error('another certificate than the one that is trusted'),
  };
}

/** The certificate that a host shows, trusted or not; nothing is said to it. */
function presented(host: string, port: number): Promise<DetailedPeerCertificate> {
  return new Promise((resolve, reject) => {
    const socket = connect(
      { host, port, servername: /^[\d.:]+$/.test(host) ? '' : host, rejectUnauthorized: false, timeout: 10_000 },
      () => {
        resolve(socket.getPeerCertificate(true));
        socket.destroy();
      },
    );
    const away = () => reject(new ProblemError({ code: 'not-reached', message: `${host}:${port} does not answer.` }));
    socket.once('error', away);
    socket.once('timeout', () => {
      away();
      socket.destroy();
    });
  });
}

/** An error of a connection as one that shows whose certificate it is, where nobody vouches for it; else the error as it was. */
export async function asUntrusted(error: unknown, host: string, port: number): Promise<unknown> {
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  if (!NOBODY_VOUCHES.includes(code)) return error;
  const { raw } = await presented(host, port);
  return new NotTrusted(
    fingerprintOf(raw),
    `No authority that is known vouches for the certificate of ${host} (${code.toLowerCase().replaceAll('_', ' ')}).`,
  );
}
