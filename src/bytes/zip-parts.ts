/** The parts of a file that is a zip archive, such as a workbook: read and written piece by piece. */
import type { FileEntry } from "@zip.js/zip.js";
import { HatchFoldError, SourceError } from "../errors/error.js";
import { entriesOf, load, withReader } from "./archive.js";
import type { ByteSource } from "./source.js";
import { copied } from "./writer.js";

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
  close(): Promise<void>;
}

/** Gives the archive away piece by piece; only files beside the first one that is open are held until that is closed. */
export async function openZipSink(give: (bytes: Uint8Array) => void | Promise<void>): Promise<ZipSink> {
  const { ZipWriter } = await load();
  const out = new WritableStream<Uint8Array>({ write: (bytes) => give(bytes) });
  // some programs read no archive with fields for more than 4 GB
  const writer = new ZipWriter(out, { zip64: false, keepOrder: true, extendedTimestamp: false, dataDescriptorSignature: true });
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
    },
  };
}
