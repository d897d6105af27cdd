import type { Masters } from '@rundle/store';
import type { FileStore } from '@tus/file-store';

/** What stays free on the disk of the store whatever comes in, in bytes: the database has to go on. */
const SPARE = 64_000_000;

/** Uploads that are under way at a time at most, of all pages. */
const MOST = 5000;

/** What has been announced and has not come yet: room is given away only once. */
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

  /** Whether there is room for so many bytes beside what has been announced; where that cannot be known, it is tried. */
  async hasRoom(bytes: number): Promise<boolean> {
    const free = await this.masters.freeBytes();
    if (free === null) return true;
    const rest = await Promise.all(
      [...(await this.known())].map(async ([id, size]) => Math.max(0, size - (await this.masters.arrivedBytes(id)))),
    );
    return free >= bytes + SPARE + rest.reduce((sum, left) => sum + left, 0);
  }

  /** Counts anew what is on the disk: after a start, and when old uploads have been forgotten. */
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
