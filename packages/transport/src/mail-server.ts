import { createReadStream } from 'node:fs';
import { ProblemError, type Receiver } from '@rundle/core';
import SMTPConnection from 'nodemailer/lib/smtp-connection';
import { asUntrusted, tlsFor } from './trust';

/** A mail server that says nothing for so long is given up, ms. */
const PATIENCE = 60_000;
/** The longest that a step may take, however slowly it is answered, ms; and the slowest line that is waited for, bytes per ms. */
const LONGEST = 120_000;
const SLOWEST = 10;
/** The most bytes of one answer. */
const MOST_ANSWERED = 64_000;

type Smtp = Extract<Receiver, { kind: 'smtp' }>;

/** A message as it is sent. */
export interface Letter {
  from: string;
  to: string[];
  /** Path of the whole message (RFC 5322). */
  path: string;
  bytes: number;
}

/** A mail server that is open and has let us in. */
export interface MailServer {
  /** The heaviest message that it announces to take, bytes (RFC 1870); null: it says nothing. */
  mostBytes: number | null;
  /** @throws ProblemError, or an error of the connection */
  send(letter: Letter): Promise<void>;
  close(): void;
}

/**
 * Opens a mail server by SMTP (RFC 5321); with STARTTLS (RFC 3207) nothing is said before the line is encrypted.
 * @throws ProblemError, NotTrusted, or an error of the connection
 */
export async function openMailServer({ host, port, security, user, trusted }: Smtp, secret: string): Promise<MailServer> {
  // With STARTTLS the certificate is shown only after some words: there only an authority that Node.js knows can vouch for it.
  const tls = security === 'tls' ? await tlsFor(host, port, trusted) : {};
  const line = new SMTPConnection({
    host,
    port,
    secure: security === 'tls',
    requireTLS: security === 'starttls',
    ignoreTLS: security === 'none',
    tls,
    connectionTimeout: 30_000,
    greetingTimeout: 30_000,
    socketTimeout: PATIENCE,
    maxResponseSize: MOST_ANSWERED,
  });
  const broken = new Promise<never>((_, reject) => line.once('error', reject).once('end', () => reject(lineBroke())));
  broken.catch(() => {});
  /** Ends when it is done, when the line breaks, or when it takes longer than makes sense. */
  const step = async (ms: number, act: (done: (error?: Error | null) => void) => void): Promise<void> => {
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<never>((_, reject) => (timer = setTimeout(() => reject(lineBroke()), ms)));
    const done = new Promise<void>((resolve, reject) => act((error) => (error ? reject(error) : resolve())));
    try {
      await Promise.race([done, broken, late]);
    } catch (error) {
      line.close();
      const seen = security === 'tls' ? await asUntrusted(error, host, port) : error;
      throw asProblem(seen, host);
    } finally {
      clearTimeout(timer);
    }
  };
  await step(LONGEST, (done) => line.connect(done));
  const announced = Number(/^250[ -]SIZE (\d+)/im.exec(String(line.lastServerResponse))?.[1] ?? 0);
  if (user) await step(LONGEST, (done) => line.login({ user, pass: secret }, done));
  return {
    mostBytes: announced || null,
    send: ({ from, to, path, bytes }) =>
      step(LONGEST + bytes / SLOWEST, (done) => line.send({ from, to, size: bytes }, createReadStream(path), done)),
    close: () => line.quit(),
  };
}

const lineBroke = (): Error => Object.assign(new Error('The line broke.'), { code: 'ECONNRESET' });

/** What trying again does not change: codes of 500 and above (RFC 5321, 4.2.1). */
function asProblem(error: unknown, host: string): unknown {
  if (!(error instanceof Error) || error instanceof ProblemError) return error;
  const { responseCode = 0, code = '', response = '' } = error as Error & { responseCode?: number; code?: string; response?: string };
  if (code === 'EAUTH') return new ProblemError({ code: 'signed-out', message: `${host} does not know the user or the password.` });
  const said = response.replace(/\s+/g, ' ').slice(0, 300);
  return responseCode >= 500
    ? new ProblemError({ code: 'receiver-refused', message: `${host} does not take the message: ${said}` })
    : error;
}
