import { ChangeDetectionStrategy, Component, computed, inject, input, type OnInit, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { isSameAccount, Receiver, type ReceiverTest, type StoredReceiver } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';

/** All that is typed of a receiver, of whatever kind. */
interface Typed {
  kind: Receiver['kind'];
  title: string;
  address: string;
  host: string;
  port: string;
  user: string;
  folder: string;
  shownAt: string;
  security: 'tls' | 'starttls' | 'none';
  from: string;
  trusted: string | null;
}

const PORTS = { webdav: '', sftp: '22', smtp: '587' } as const;

/** Writes down who is sent pictures, and tries whether it can be reached. */
@Component({
  selector: 'rd-receiver-form',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule],
  templateUrl: './receiver-form.html',
  styleUrl: './receiver-form.less',
})
export class ReceiverForm implements OnInit {
  /** The one that is changed; null: a new one. */
  readonly stored = input<StoredReceiver | null>(null);
  readonly isMail = input.required<boolean>();
  /** With the id of the receiver; empty: nothing was kept. */
  readonly closed = output<string>();
  private readonly api = inject(Api);
  protected readonly typed = signal<Typed>(EMPTY);
  protected readonly password = signal('');
  protected readonly key = signal('');
  private readonly secret = computed(() => (this.typed().kind === 'sftp' && this.key().trim() ? this.key() : this.password()));
  private readonly parsed = computed(() => parse(this.typed()));
  /** What stands in the empty field of the password: whether one is kept, which is for the same user at the same place only. */
  protected readonly keptWords = computed(() => {
    const [stored, parsed] = [this.stored(), this.parsed()];
    if (!stored?.hasSecret) return '';
    return parsed.success && isSameAccount(stored.receiver, parsed.data) ? 'kept; type to change it' : 'type it again';
  });
  protected readonly wrong = signal<string | null>(null);
  protected readonly tested = signal<ReceiverTest | null>(null);
  protected readonly isBusy = signal(false);
  protected readonly deleting = signal(false);
  protected readonly unknown = computed(() => {
    const told = this.tested();
    return told?.is === 'unknown' ? told.fingerprint : null;
  });

  ngOnInit(): void {
    const stored = this.stored();
    if (!stored) return this.typed.set({ ...EMPTY, kind: this.isMail() ? 'smtp' : 'sftp', port: this.isMail() ? '587' : '22' });
    const { receiver } = stored;
    this.typed.set({ ...EMPTY, ...receiver, port: 'port' in receiver ? String(receiver.port) : '' });
  }

  protected change(part: Partial<Typed>): void {
    this.typed.update((typed) => ({ ...typed, ...(part.kind ? { port: PORTS[part.kind], trusted: null } : {}), ...part }));
    this.tested.set(null);
  }

  protected trust(): void {
    this.typed.update((typed) => ({ ...typed, trusted: this.unknown() }));
    this.test();
  }

  protected test(): void {
    const receiver = this.receiver();
    if (!receiver) return;
    this.isBusy.set(true);
    const stored = this.stored();
    const body = { receiver, ...(this.secret() ? { secret: this.secret() } : {}), ...(stored ? { receiverId: stored.id } : {}) };
    this.api.testReceiver({ body }).subscribe({
      next: (told) => {
        this.tested.set(told);
        this.isBusy.set(false);
      },
      error: (error: unknown) => this.failed(error),
    });
  }

  protected save(): void {
    const receiver = this.receiver();
    if (!receiver) return;
    this.isBusy.set(true);
    const body = { receiver, ...(this.secret() ? { secret: this.secret() } : {}) };
    const stored = this.stored();
    const call = stored ? this.api.changeReceiver({ receiverId: stored.id, body }) : this.api.createReceiver({ body });
    call.subscribe({ next: ({ id }) => this.closed.emit(id), error: (error: unknown) => this.failed(error) });
  }

  protected remove(): void {
    const stored = this.stored();
    if (stored)
      this.api.deleteReceiver({ receiverId: stored.id }).subscribe({
        next: () => this.closed.emit(''),
        error: (error: unknown) => this.failed(error),
      });
  }

  private failed(error: unknown): void {
    this.isBusy.set(false);
    this.wrong.set(sentenceOf(error));
  }

  /** What was typed, when it is whole; else a sentence says what is not. */
  private receiver(): Receiver | null {
    const parsed = this.parsed();
    this.wrong.set(null);
    if (parsed.success) return parsed.data;
    const [issue] = parsed.error.issues;
    this.wrong.set(`${LABELS[String(issue?.path[0])] ?? 'Receiver'}: ${issue?.message ?? 'something is missing'}.`);
    return null;
  }
}

function parse({ kind, title, address, host, port, user, folder, shownAt, security, from, trusted }: Typed) {
  const fields = {
    webdav: { address: address.trim().replace(/\/+$/, ''), user, trusted, shownAt: shownAt.trim() },
    sftp: { host: host.trim(), port: Number(port), user, folder, trusted, shownAt: shownAt.trim() },
    smtp: { host: host.trim(), port: Number(port), security, user, from: from.trim(), trusted },
  }[kind];
  return Receiver.safeParse({ kind, title: title.trim(), ...fields });
}

const EMPTY: Typed = {
  kind: 'sftp',
  title: '',
  address: '',
  host: '',
  port: '22',
  user: '',
  folder: '',
  shownAt: '',
  security: 'starttls',
  from: '',
  trusted: null,
};

const LABELS: Record<string, string> = {
  title: 'Name',
  address: 'Address',
  host: 'Host',
  port: 'Port',
  user: 'User',
  folder: 'Folder on the host',
  shownAt: 'Seen on the web at',
  from: 'Sent from',
};
