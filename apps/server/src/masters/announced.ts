import type { Masters } from '@rundle/store';
import type { FileStore } from '@tus/file-store';

/** Space that is never given to uploads, in bytes: the database needs some to go on. */
const SPARE = 64_000_000;

/** Uploads that are under way at a time at most, of all pages. */
const MOST = 5000;

/** Space reserved by uploads that have been announced and not arrived: no byte is promised twice. */
export class Announced {
  private sizes: Map<string, number> | undefined;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly datastore: FileStore,
    private readonly masters: Masters,
  ) {}

  /** Reserves room for an upload. @param size bytes @returns false when there is none */
  admit(id: string, size: number): Promise<boolean> {
    const next = this.turn.then(async () => {
      const sizes = await this.known();
      if (sizes.size >= MOST || !(await this.hasRoom(size))) return false;
      sizes.set(id, size);
      return true;
    });
    this.turn = next.catch(() => {});
    return next;
  }

  forget(id: string): void {
    this.sizes?.delete(id);
  }

  /** Whether that many bytes fit beside what has been reserved; true where free space cannot be determined. */
  async hasRoom(bytes: number): Promise<boolean> {
    const free = await this.masters.freeBytes();
    if (free === null) return true;
    const rest = await Promise.all(
      [...(await this.known())].map(async ([id, size]) => Math.max(0, size - (await this.masters.arrivedBytes(id)))),
    );
    return free >= bytes + SPARE + rest.reduce((sum, left) => sum + left, 0);
  }

  /** Counts again what is on the disk: after a start, and when old uploads have been deleted. */
  async count(): Promise<void> {
    const { configstore } = this.datastore;
    const ids = (await configstore.list?.()) ?? [];
    const found = await Promise.all(ids.map(async (id) => [id, (await configstore.get(id))?.size ?? 0] as const));
    this.sizes = new Map(found);
  }

  private async known(): Promise<Map<string, number>> {
    if (!this.sizes) await this.count();
    return (this.sizes ??= new Map());
  }
}
