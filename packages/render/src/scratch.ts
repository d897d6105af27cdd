/** A buffer larger than this is not kept: one panorama must not cost its memory for good. In bytes. */
const MOST_KEPT = 120_000_000;

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
