/** A buffer larger than this is not kept: one panorama must not cost its memory for good. In bytes. */
const MOST_KEPT = 160_000_000;

/**
 * Memory that is used again from picture to picture. A thread works on one picture at a time, and new memory of this size is
 * dear: the system clears it page by page, and it makes the collector run. What is taken is valid until it is taken again.
 */
export class Scratch {
  private kept = new ArrayBuffer(0);

  /** @param bytes how many are wanted; they hold whatever was there before */
  take(bytes: number): ArrayBuffer {
    if (this.kept.byteLength >= bytes) return this.kept;
    const fresh = new ArrayBuffer(bytes);
    if (bytes <= MOST_KEPT) this.kept = fresh;
    return fresh;
  }
}

/**
 * The same for several pieces that are wanted side by side, all of them until the next {@link clear}. What does not fit the
 * first time is made anew, and fits the next time.
 */
export class Arena {
  private readonly scratch = new Scratch();
  private room = new ArrayBuffer(0);
  private used = 0;

  /** Releases what was taken, and makes room for as much again. */
  clear(): void {
    if (this.used > this.room.byteLength && this.used <= MOST_KEPT) this.room = this.scratch.take(this.used);
    this.used = 0;
  }

  /** @param count how many words of 16 bits; they hold whatever was there before */
  words(count: number): Uint16Array {
    const start = this.used;
    this.used += (2 * count + 63) & ~63;
    return this.used <= this.room.byteLength ? new Uint16Array(this.room, start, count) : new Uint16Array(count);
  }
}
