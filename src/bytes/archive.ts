/**
 * Zip archives (ISO/IEC 21320-1) as sets of files: what is in them is read, and a fold puts changed files back
 * in their places. The package checks the CRC of what it unpacks; names and sizes are checked here.
 */
import type { FileEntry, ZipReader } from "@zip.js/zip.js";
import { HatchFoldError, SourceError } from "../errors/error.js";
import { MemorySource, type ByteSource } from "./source.js";
import { copied } from "./writer.js";

/** What is in an archive is held in memory: no more than this of it. */
const MOST = 1 << 30;
/** Text does not shrink by more than this: what does was made to burst. */
const MOST_RATIO = 1000;
const SUSPICIOUS = 1 << 26;
/** Each costs more than a file on disk does. */
const MOST_ENTRIES = 20_000;

export async function isArchive(source: ByteSource): Promise<boolean> {
  const head = await source.read(0, 4);
  return head[0] === 0x50 && head[1] === 0x4b && ((head[2] === 3 && head[3] === 4) || (head[2] === 5 && head[3] === 6));
}

/** The files of an archive, in their order; folders and hidden files are passed over. */
export async function openArchive(source: ByteSource): Promise<ByteSource[]> {
  return withReader(source, async (reader) => {
    const files: ByteSource[] = [];
    // nothing is unpacked before all of it is known to be in bounds
    for (const entry of await entriesOf(reader, source)) {
      const bytes = new Uint8Array(await entry.arrayBuffer({ checkSignature: true }));
      files.push(new MemorySource(bytes, entry.filename));
    }
    return files;
  });
}

/** What is packed in an archive, in bounds; with what is hidden when `all` is said. */
async function entriesOf(reader: ZipReader<unknown>, source: ByteSource, all = false): Promise<FileEntry[]> {
  const place = { file: source.name };
  const names = new Set<string>();
  const entries: FileEntry[] = [];
  let size = 0;
  for await (const entry of reader.getEntriesGenerator()) {
    if (entry.directory || (!all && isHidden(entry.filename))) continue;
    if (entries.length >= MOST_ENTRIES) throw new SourceError("zip-many", { most: MOST_ENTRIES }, place);
    if (entry.encrypted) throw new SourceError("zip-encrypted", { entry: entry.filename }, place);
    if (names.has(entry.filename)) throw new SourceError("zip-twice", { entry: entry.filename }, place);
    size += entry.uncompressedSize;
    if (size > MOST || (size > SUSPICIOUS && size > MOST_RATIO * source.size))
      throw new SourceError("zip-large", { most: MOST, packed: source.size }, place);
    names.add(entry.filename);
    entries.push(entry);
  }
  return entries;
}

/** One of the files in an archive, unpacked piece by piece. */
export interface ZipPart {
  readonly size: number;
  read(take: (piece: Uint8Array) => void): Promise<void>;
}

/** The files of an archive by name, none of them unpacked yet. */
export async function openParts(source: ByteSource): Promise<ReadonlyMap<string, ZipPart>> {
  return withReader(source, async (reader) => {
    const part = (entry: FileEntry): ZipPart => ({
      size: entry.uncompressedSize,
      read: async (take) => {
        try {
          await entry.getData(new WritableStream<Uint8Array>({ write: take }), { checkSignature: true });
        } catch (error) {
          throw error instanceof HatchFoldError ? error : new SourceError("zip-broken", {}, { file: source.name });
        }
      },
    });
    return new Map((await entriesOf(reader, source, true)).map((entry) => [entry.filename, part(entry)]));
  });
}

/** Takes the bytes of one file that is packed. */
export interface ZipPartOut {
  /** Resolves when the bytes may be written over. */
  write(bytes: Uint8Array): Promise<void>;
  close(): Promise<void>;
}

/** An archive in the making: its files may be written side by side. */
export interface ZipSink {
  part(path: string): ZipPartOut;
  close(): Promise<Uint8Array>;
}

export async function openZipSink(): Promise<ZipSink> {
  const { ZipWriter, Uint8ArrayWriter } = await load();
  const out = new Uint8ArrayWriter();
  // some programs read no archive with fields for more than 4 GB
  const writer = new ZipWriter(out, { zip64: false, keepOrder: true, bufferedWrite: true, extendedTimestamp: false });
  const parts: Promise<unknown>[] = [];
  return {
    part(path) {
      const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>();
      const pipe = writable.getWriter();
      const done = writer.add(path, readable);
      done.catch(() => undefined); // told at the end
      parts.push(done);
      return { write: (bytes) => pipe.write(copied(bytes)), close: () => pipe.close() };
    },
    async close() {
      await Promise.all(parts);
      await writer.close();
      return out.getData();
    },
  };
}

/** The archive again, with other contents for some of its files; what is not changed keeps its packed bytes. */
export async function rebuildArchive(source: ByteSource, changed: ReadonlyMap<string, Uint8Array>): Promise<Uint8Array> {
  const { ZipWriter, Uint8ArrayReader, Uint8ArrayWriter } = await load();
  return withReader(source, async (reader) => {
    const out = new Uint8ArrayWriter();
    const writer = new ZipWriter(out, { keepOrder: true });
    for await (const entry of reader.getEntriesGenerator()) {
      const { filename, lastModDate, comment, externalFileAttributes, versionMadeBy, compressionMethod } = entry;
      const meta = { comment, lastModDate, externalFileAttributes, versionMadeBy, extendedTimestamp: false };
      const bytes = changed.get(filename);
      if (entry.directory) await writer.add(filename, undefined, { ...meta, directory: true });
      else if (bytes !== undefined)
        await writer.add(filename, new Uint8ArrayReader(bytes), { ...meta, level: compressionMethod === 0 ? 0 : 6 });
      else {
        const { crc32, uncompressedSize } = entry;
        const packed = new Uint8Array(await entry.arrayBuffer({ passThrough: true, checkSignature: false }));
        await writer.add(filename, new Uint8ArrayReader(packed), {
          ...meta,
          passThrough: true,
          uncompressedSize,
          compressionMethod,
          crc32,
        });
      }
    }
    await writer.close();
    return out.getData();
  });
}

async function withReader<T>(source: ByteSource, use: (reader: ZipReader<unknown>) => Promise<T>): Promise<T> {
  const { ERR_UNSAFE_FILENAME, ZipReader, Uint8ArrayReader } = await load();
  const reader = new ZipReader(new Uint8ArrayReader(copied(await source.read(0, source.size))));
  try {
    return await use(reader);
  } catch (error) {
    if (error instanceof SourceError) throw error;
    if (error instanceof Error && error.message === ERR_UNSAFE_FILENAME) throw new SourceError("zip-name", {}, { file: source.name });
    throw new SourceError("zip-broken", {}, { file: source.name });
  } finally {
    await reader.close();
  }
}

/** Loaded when there is an archive: most sources are none. */
async function load(): Promise<typeof import("@zip.js/zip.js")> {
  const zip = await import("@zip.js/zip.js");
  zip.configure({ useWebWorkers: false });
  return zip;
}

function isHidden(name: string): boolean {
  return name.split("/").some((part) => part.startsWith(".") && part !== "." && part !== "..") || name.startsWith("__MACOSX/");
}
