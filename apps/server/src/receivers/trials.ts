import { fork } from 'node:child_process';
import { type Receiver, ReceiverTest } from '@rundle/core';

/** How long a try may take, ms. */
const LONGEST = 90_000;
/** The heap that it may take, MB: it reads words only. */
const HEAP_MB = 128;

/** Tries receivers in processes of their own: one that answers without an end takes nothing with it but its own try. */
export class Trials {
  /** @param program path of the bundled `receiver-trial` */
  constructor(private readonly program: string) {}

  /** Tries whether a receiver can be reached and takes a file; that file is removed again. */
  try(receiver: Receiver, secret: string): Promise<ReceiverTest> {
    const child = fork(this.program, { execArgv: [`--max-old-space-size=${HEAP_MB}`], stdio: ['ignore', 'ignore', 'ignore', 'ipc'] });
    return new Promise((resolve) => {
      const overdue = setTimeout(() => {
        resolve({ is: 'refused', says: 'It answers too slowly, and was given up. Check address and port.' });
        child.kill('SIGKILL');
      }, LONGEST);
      child.once('message', (answer) => resolve(ReceiverTest.parse(answer)));
      const ended = () => {
        clearTimeout(overdue);
        // Said already, unless it came to no end.
        resolve({ is: 'refused', says: 'What answers there cannot be understood. Check address and port.' });
      };
      child.once('error', ended);
      child.once('exit', ended);
      child.send({ receiver, secret }, (error) => error && ended());
    });
  }
}
