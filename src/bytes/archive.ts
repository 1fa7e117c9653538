/**
 * Zip archives (ISO/IEC 21320-1) as sets of files: what is in them is read, and a fold puts changed files back
 * in their places. The package checks the CRC of what it unpacks; names and sizes are checked here.
 */
import type { FileEntry, ZipReader } from "@zip.js/zip.js";
import { SourceError } from "../errors/error.js";
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
export async function entriesOf(reader: ZipReader<unknown>, source: ByteSource, all = false): Promise<FileEntry[]> {
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

/** The archive again, with other contents for some of its files, or without them (`null`); what is not changed keeps its packed bytes. */
export async function rebuildArchive(source: ByteSource, changed: ReadonlyMap<string, Uint8Array | null>): Promise<Uint8Array> {
  const { ZipWriter, Uint8ArrayReader, Uint8ArrayWriter } = await load();
  return withReader(source, async (reader) => {
    const out = new Uint8ArrayWriter();
    const writer = new ZipWriter(out, { keepOrder: true });
    for await (const entry of reader.getEntriesGenerator()) {
      const { filename, lastModDate, comment, externalFileAttributes, versionMadeBy, compressionMethod } = entry;
      const meta = { comment, lastModDate, externalFileAttributes, versionMadeBy, extendedTimestamp: false };
      const bytes = changed.get(filename);
      if (bytes === null) continue;
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

export async function withReader<T>(source: ByteSource, use: (reader: ZipReader<unknown>) => Promise<T>): Promise<T> {
  const { ERR_UNSAFE_FILENAME, Reader, ZipReader } = await load();
  class SourceReader extends Reader<ByteSource> {
    override readonly size = source.size;
    override async readUint8Array(from: number, length: number): Promise<Uint8Array> {
      return copied(await source.read(from, Math.min(from + length, source.size)));
    }
  }
  const reader = new ZipReader(new SourceReader(source));
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
export async function load(): Promise<typeof import("@zip.js/zip.js")> {
  const zip = await import("@zip.js/zip.js");
  zip.configure({ useWebWorkers: false });
  return zip;
}

function isHidden(name: string): boolean {
  return name.split("/").some((part) => part.startsWith(".") && part !== "." && part !== "..") || name.startsWith("__MACOSX/");
}
