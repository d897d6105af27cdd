/** What was made last, for as long as it is among so many: pictures of a set have few sizes between them. */
export class Recent<T> {
  private readonly known = new Map<string, T>();

  constructor(private readonly most: number) {}

  get(key: string, make: () => T): T {
    const value = this.known.get(key) ?? make();
    // The one that was wanted last stands last.
    this.known.delete(key);
    this.known.set(key, value);
    const oldest = this.known.keys().next().value;
    if (this.known.size > this.most && oldest !== undefined) this.known.delete(oldest);
    return value;
  }
}
