import { SMTPServer } from 'smtp-server';
import type { Login } from '../web-space/site';
import type { Box } from './box';

/** The heaviest message that is taken, bytes. */
export const HEAVIEST = 10_000_000;

/** A stand-in for a mail server: what it is sent lies in the box. */
export function smtpServer(box: Box, { user, password }: Login): SMTPServer {
  return new SMTPServer({
    banner: 'Emberquay Post, a made-up mail server',
    size: HEAVIEST,
    // It answers on its own machine only, where nobody listens.
    disabledCommands: ['STARTTLS'],
    allowInsecureAuth: true,
    onAuth: (given, _session, done) =>
      given.username === user && given.password === password ? done(null, { user }) : done(new Error('Wrong user or password')),
    onData: (stream, session, done) => {
      const parts: Buffer[] = [];
      let bytes = 0;
      stream.on('data', (part: Buffer) => {
        bytes += part.length;
        if (bytes <= HEAVIEST) parts.push(part); // the rest is read and thrown away
      });
      stream.on('end', () => {
        if (bytes > HEAVIEST) return done(Object.assign(new Error(`It is heavier than ${HEAVIEST / 1e6} MB`), { responseCode: 552 }));
        const to = session.envelope.rcptTo.map(({ address }) => address);
        box.take(Buffer.concat(parts), to).then(
          () => done(),
          () => done(Object.assign(new Error('It could not be kept'), { responseCode: 451 })),
        );
      });
    },
  });
}
