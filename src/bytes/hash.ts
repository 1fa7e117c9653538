/**
 * Hashes of short runs of bytes, and the fingerprint of a whole source.
 *
 * Row hashes are two independent 32-bit lanes that take four bytes at a time (one rotates and multiplies,
 * the other multiplies and shifts), kept as numbers; the fingerprint is xxHash64 from a WebAssembly package.
 */
import createXxhash from "xxhash-wasm";

const MULTIPLIER_A = 0x85ebca6b | 0;
const MULTIPLIER_B = 0x9e3779b1 | 0;

export class Hash {
  a = 0;
  b = 0;

  start(): void {
    this.a = 0x811c9dc5 | 0;
    this.b = 0x2545f491 | 0;
  }

  /** Adds one part: its end counts, so that `ab|c` and `a|bc` differ. */
  part(bytes: Uint8Array, from: number, to: number, kind = 0): void {
    const { buffer, byteOffset } = bytes;
    // a view costs more than a short part: the one of the last buffer is kept
    if (this.words.buffer !== buffer) this.words = new DataView(buffer);
    this.partOf(this.words, byteOffset + from, byteOffset + to, kind);
  }
  private words: DataView = new DataView(new ArrayBuffer(0));

  /** The same, of a buffer that can be had in words; `kind` is a small number that counts, too. */
  partOf(words: DataView, from: number, to: number, kind = 0): void {
    let a = this.a ^ kind;
    let b = this.b + kind;
    let i = from;
    for (const whole = to - 3; i < whole; i += 4) {
      const word = words.getInt32(i, true);
      a = Math.imul(((a << 5) | (a >>> 27)) ^ word, MULTIPLIER_A);
      b = Math.imul(b ^ word, MULTIPLIER_B);
      b ^= b >>> 15;
    }
    const last = lastWord(words, i, to);
    this.a = Math.imul(((a << 5) | (a >>> 27)) ^ last, MULTIPLIER_A);
    b = Math.imul(b ^ last, MULTIPLIER_B);
    this.b = b ^ (b >>> 15);
  }

  /** Adds a number of 32 bits. */
  word(word: number): void {
    this.a = Math.imul(((this.a << 5) | (this.a >>> 27)) ^ word, MULTIPLIER_A);
    const b = Math.imul(this.b ^ word, MULTIPLIER_B);
    this.b = b ^ (b >>> 15);
  }

  /** Both lanes as one number of 53 bits. */
  get number(): number {
    return (this.a >>> 0) * 0x200000 + (this.b >>> 11);
  }
}

/** What is left at the end of a part, three bytes at most, and a bit behind it. */
function lastWord(words: DataView, from: number, to: number): number {
  const bits = 8 * (to - from);
  if (bits === 0) return 1;
  if (to >= 4) return (words.getInt32(to - 4, true) >>> (32 - bits)) | (1 << bits);
  let last = 1;
  for (let k = to - 1; k >= from; k--) last = (last << 8) | words.getUint8(k);
  return last;
}

/** A sum of hashes, in whatever order they come; both lanes wrap at 32 bits. */
export interface Sum {
  a: number;
  b: number;
}

export function isZero({ a, b }: Readonly<Sum>): boolean {
  return (a | b) === 0;
}

export function addTo(sum: Sum, { a, b }: Readonly<Sum>): void {
  sum.a = (sum.a + a) | 0;
  sum.b = (sum.b + b) | 0;
}

export function takeFrom(sum: Sum, { a, b }: Readonly<Sum>): void {
  sum.a = (sum.a - a) | 0;
  sum.b = (sum.b - b) | 0;
}

const shared = new Hash();

/** A 53-bit hash of a run of bytes. */
export function hashBytes(bytes: Uint8Array, from = 0, to = bytes.length): number {
  shared.start();
  shared.part(bytes, from, to);
  return shared.number;
}

/** A 32-bit hash of a name. */
export function hashName(bytes: Uint8Array, from = 0, to = bytes.length): number {
  shared.start();
  shared.part(bytes, from, to);
  return shared.a;
}

export interface Fingerprinter {
  update(bytes: Uint8Array): void;
  digest(): string;
}

let xxhash: ReturnType<typeof createXxhash> | null = null;

/** A running xxHash64; the digest is 16 hexadecimal digits. */
export async function fingerprinter(): Promise<Fingerprinter> {
  const hash = (await (xxhash ??= createXxhash())).create64();
  return {
    update: (bytes) => void hash.update(bytes),
    digest: () => hash.digest().toString(16).padStart(16, "0"),
  };
}

export async function fingerprint(bytes: Uint8Array): Promise<string> {
  const running = await fingerprinter();
  running.update(bytes);
  return running.digest();
}

/** A set of 53-bit hashes in one typed array: 16 bytes an entry, whatever they are hashes of. */
export class HashSet {
  size = 0;
  private slots = new Float64Array(16).fill(-1);

  /** Adds a hash; false when it was there. */
  add(hash: number): boolean {
    if (this.size * 2 >= this.slots.length) this.grow();
    const at = this.find(hash);
    if (this.slots[at] === hash) return false;
    this.slots[at] = hash;
    this.size++;
    return true;
  }

  has(hash: number): boolean {
    return this.slots[this.find(hash)] === hash;
  }

  *[Symbol.iterator](): Iterator<number> {
    for (const hash of this.slots) if (hash >= 0) yield hash;
  }

  private find(hash: number): number {
    const mask = this.slots.length - 1;
    let at = (hash % 0x7fffffff) & mask;
    while (this.slots[at] >= 0 && this.slots[at] !== hash) at = (at + 1) & mask;
    return at;
  }

  private grow(): void {
    const old = this.slots;
    this.slots = new Float64Array(old.length * 2).fill(-1);
    for (const hash of old) if (hash >= 0) this.slots[this.find(hash)] = hash;
  }
}
