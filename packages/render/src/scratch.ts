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
 * The same for several pieces that are wanted side by side, all of them until the next {@link clear}. Pictures want the same pieces in the same order:
 * each is found where the last picture's was, unless that was too small.
 */
export class Arena {
  private pieces: ArrayBuffer[] = [];
  private next = 0;

  /** Releases what was taken, for the next to take. */
  clear(): void {
    if (this.pieces.reduce((sum, { byteLength }) => sum + byteLength, 0) > MOST_KEPT) this.pieces = [];
    this.next = 0;
  }

  /** @param count how many words of 16 bits; they hold whatever was there before */
  words(count: number): Uint16Array {
    const known = this.pieces[this.next];
    const piece = known && known.byteLength >= 2 * count ? known : new ArrayBuffer(2 * count);
    this.pieces[this.next++] = piece;
    return new Uint16Array(piece, 0, count);
  }
}
