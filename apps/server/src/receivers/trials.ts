import { type Receiver, ReceiverTest } from '@rundle/core';
import { askChild, TRIAL_BOUNDS } from '@rundle/store';

/** Tries receivers in processes of their own: one that answers without an end takes nothing with it but its own try. */
export class Trials {
  /** @param program path of the bundled `receiver-trial` */
  constructor(private readonly program: string) {}

  /** Tries whether a receiver can be reached and takes a file; that file is removed again. */
  async try(receiver: Receiver, secret: string): Promise<ReceiverTest> {
    const told = await askChild(this.program, { receiver, secret }, TRIAL_BOUNDS);
    if (told === 'overdue') return { is: 'refused', says: 'It answers too slowly, and was given up. Check address and port.' };
    if (typeof told === 'string') return { is: 'refused', says: 'What answers there cannot be understood. Check address and port.' };
    return ReceiverTest.parse(told.answer);
  }
}
