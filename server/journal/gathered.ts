/** Fewest bytes there is room for. */
const roomBytes = 1024 * 1024;
/** What grew beyond this is let go once it is empty. */
const mostKeptBytes = 16 * roomBytes;
/** Most bytes of UTF-8 a UTF-16 unit becomes. */
const bytesPerUnit = 3;

/**
 * Lines gathered for one write, as bytes. It is used again for the next: a fresh buffer a batch makes V8 collect the
 * whole heap every few seconds under load, and text that waits as text is copied at each small collection.
 */
export class Gathered {
  records = 0;
  length = 0;
  bytes = Buffer.allocUnsafeSlow(roomBytes);

  add(lines: string, records: number): void {
    const most = this.length + lines.length * bytesPerUnit;
    if (most > this.bytes.length) {
      const wider = Buffer.allocUnsafeSlow(2 ** Math.ceil(Math.log2(most)));
      this.bytes.copy(wider, 0, 0, this.length);
      this.bytes = wider;
    }
    this.length += this.bytes.write(lines, this.length);
    this.records += records;
  }

  clear(): void {
    this.records = 0;
    this.length = 0;
    if (this.bytes.length > mostKeptBytes) this.bytes = Buffer.allocUnsafeSlow(roomBytes);
  }
}
