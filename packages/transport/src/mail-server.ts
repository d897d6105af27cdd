import { ProblemError, type Receiver } from '@rundle/core';
import { createTransport, type Transporter } from 'nodemailer';
import type { Options } from 'nodemailer/lib/mailer';
import { asUntrusted, tlsFor } from './trust';

/** A mail server that says nothing for so long is given up, ms. */
const PATIENCE = 60_000;

type Smtp = Extract<Receiver, { kind: 'smtp' }>;

/** A mail server that is open. */
export interface MailServer {
  /** @throws ProblemError, or an error of the connection */
  send(message: Options): Promise<void>;
  /** @throws as `send` */
  test(): Promise<void>;
  close(): void;
}

/** Opens a mail server by SMTP (RFC 5321); with STARTTLS (RFC 3207) nothing is said before the line is encrypted. */
export async function openMailServer({ host, port, security, user, trusted }: Smtp, secret: string): Promise<MailServer> {
  // With STARTTLS the certificate is shown only after some words: there only an authority that Node.js knows can vouch for it.
  const tls = security === 'tls' ? await tlsFor(host, port, trusted) : {};
  const transport: Transporter = createTransport({
    host,
    port,
    secure: security === 'tls',
    requireTLS: security === 'starttls',
    ignoreTLS: security === 'none',
    ...(user ? { auth: { user, pass: secret } } : {}),
    tls,
    connectionTimeout: 30_000,
    greetingTimeout: 30_000,
    socketTimeout: PATIENCE,
    disableFileAccess: false,
    disableUrlAccess: true,
  });
  const told = async (error: unknown): Promise<never> => {
    const seen = security === 'tls' ? await asUntrusted(error, host, port) : error;
    throw asProblem(seen, host);
  };
  return {
    send: async (message) => {
      await transport.sendMail(message).catch(told);
    },
    test: async () => {
      await transport.verify().catch(told);
    },
    close: () => transport.close(),
  };
}

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
