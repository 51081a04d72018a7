/** What a line means that says nothing to be gathered. */
export const isComment = -1;

/** The lines of a page without their values, one after the other; line `i` is `bytes[starts[i]..starts[i + 1])`. */
export class KnownLines {
  bytes = new Uint8Array(4096);
  starts = new Uint32Array(128);
  /** What each line is: a series' index, or a reason below zero. */
  meanings = new Int32Array(128);
  /** What of OpenMetrics' rules a line's value must keep to (`roles` of the page reader); 0 for most. */
  roles = new Uint8Array(128);
  /** Whether a series stands in the page more than once: then its times must grow. */
  hasRepeats = false;
  /** Whether a line has a NUL: then lines are compared byte by byte. */
  hasNul = false;
  count = 0;

  add(from: Uint8Array, start: number, end: number, meaning: number, role = 0): void {
    const at = this.starts[this.count];
    const size = end - start;
    if (at + size > this.bytes.length) {
      const more = new Uint8Array(Math.max(this.bytes.length * 2, at + size));
      more.set(this.bytes);
      this.bytes = more;
    }
    for (let i = 0; i < size; i++) {
      this.bytes[at + i] = from[start + i];
      if (from[start + i] === 0) this.hasNul = true;
    }
    if (this.count + 2 > this.starts.length) {
      const starts = new Uint32Array(this.starts.length * 2);
      starts.set(this.starts);
      this.starts = starts;
      const meanings = new Int32Array(this.meanings.length * 2);
      meanings.set(this.meanings);
      this.meanings = meanings;
      const roles = new Uint8Array(this.roles.length * 2);
      roles.set(this.roles);
      this.roles = roles;
    }
    this.roles[this.count] = role;
    this.meanings[this.count++] = meaning;
    this.starts[this.count] = at + size;
  }
}
