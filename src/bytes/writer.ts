/** A growing run of bytes. `bytes` may be longer than `length`; only the first `length` count. */
export class ByteWriter {
  bytes: Uint8Array;
  /** The same bytes, to be read and written four at a time. */
  words: DataView;
  length = 0;

  constructor(capacity = 1024) {
    this.bytes = new Uint8Array(capacity);
    this.words = new DataView(this.bytes.buffer);
  }

  /** Makes room for `more` bytes. */
  ensure(more: number): void {
    if (this.length + more <= this.bytes.length) return;
    const grown = new Uint8Array(Math.max(this.bytes.length * 2, this.length + more));
    grown.set(this.bytes.subarray(0, this.length));
    this.bytes = grown;
    this.words = new DataView(grown.buffer);
  }

  append(bytes: Uint8Array, start = 0, end = bytes.length): void {
    this.ensure(end - start);
    if (end - start > 64) this.bytes.set(bytes.subarray(start, end), this.length);
    else for (let i = start, o = this.length; i < end; i++, o++) this.bytes[o] = bytes[i];
    this.length += end - start;
  }

  byte(value: number): void {
    this.ensure(1);
    this.bytes[this.length++] = value;
  }

  text(value: string): void {
    const { length } = value;
    this.ensure(length);
    // short words of ASCII are most of all texts, and not worth a call of the encoder
    for (let i = 0; i < length; i++) {
      const unit = value.charCodeAt(i);
      if (unit >= 0x80 || length > SHORT) {
        this.append(encode(value));
        return;
      }
      this.bytes[this.length + i] = unit;
    }
    this.length += length;
  }

  /** A copy of what was written. */
  take(): Uint8Array {
    return this.bytes.slice(0, this.length);
  }

  clear(): void {
    this.length = 0;
  }
}

/** Up to so many characters, a text is most often ASCII, and encoded at once. */
const SHORT = 64;
const encoder = new TextEncoder();
const decoder = new TextDecoder("utf-8", { ignoreBOM: true });

export function encode(text: string): Uint8Array {
  const { length } = text;
  if (length > SHORT) return encoder.encode(text);
  // the encoder's own arrays have a buffer each: for a short text four times the memory, and there may be one for every edit
  const bytes = new Uint8Array(length);
  for (let i = 0; i < length; i++) {
    const unit = text.charCodeAt(i);
    if (unit >= 0x80) return encoder.encode(text);
    bytes[i] = unit;
  }
  return bytes;
}

export function decode(bytes: Uint8Array, start = 0, end = bytes.length): string {
  if (end - start > 24) return decoder.decode(bytes.subarray(start, end));
  let text = "";
  let i = start;
  // four at a time: each shorter text on the way is one more for the engine to collect
  for (; i + 4 <= end; i += 4) {
    if ((bytes[i] | bytes[i + 1] | bytes[i + 2] | bytes[i + 3]) >= 0x80) break;
    text += String.fromCharCode(bytes[i], bytes[i + 1], bytes[i + 2], bytes[i + 3]);
  }
  for (; i < end; i++) {
    if (bytes[i] >= 0x80) return decoder.decode(bytes.subarray(start, end));
    text += String.fromCharCode(bytes[i]);
  }
  return text;
}

/** A copy that stays when the bytes are written over: `slice()` of a Node `Buffer` is none. */
export function copied(bytes: Uint8Array, start = 0, end = bytes.length): Uint8Array<ArrayBuffer> {
  return new Uint8Array(bytes.subarray(start, end));
}

/** Joins pieces into one array. */
export function concat(pieces: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece, at);
    at += piece.length;
  }
  return whole;
}

/** Is there nothing but white space in a run of UTF-8? Most texts begin with something else. */
export function isBlank(bytes: Uint8Array, from: number, to: number): boolean {
  const first = from < to ? bytes[from] : 0;
  return (first <= 0x20 || first >= 0x80) && decode(bytes, from, to).trim() === "";
}
