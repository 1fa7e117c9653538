/**
 * The folder `.hatchfold` beside a source: backups, the journal of folds, and the record of one that is being done.
 *
 * What stands in it may have been put there by somebody else, with the folder it came in. So it is read only where it is
 * a plain folder of who runs this, its files are plain files of theirs, read through a strict schema, and every name in
 * them is one that this program could have written for the source that the call names.
 */
import { constants } from "node:fs";
import { mkdir, open, realpath, rm, stat } from "node:fs/promises";
import { basename, dirname, isAbsolute, join, posix } from "node:path";
import { z } from "zod";
import { encode } from "../bytes/writer.js";
import { SourceError } from "../errors/error.js";
import { closing, lookAt, systemReason } from "./files.js";
import { isOurs, isTemporaryOf, writeWhole } from "./out-file.js";

const FOLDER = ".hatchfold";
const JOURNAL = "journal.json";
const PENDING = "pending.json";
/** A journal of tens of thousands of folds is smaller. */
const MOST = 1 << 26;

/** A name of a plain file in a folder, as a part of a path. */
const isPlainName = (name: string): boolean => name !== "" && name !== "." && name !== ".." && !/[/\\\0]/.test(name);

/** A path that leads to a file in the folder or below it. */
const inside = z.string().refine((path) => !isAbsolute(path) && path.split(/[/\\]/).every(isPlainName), "leads out of the folder");
const backup = z.string().refine((path) => dirname(path) === FOLDER && isPlainName(basename(path)), `is not in ${FOLDER}`);
const mark = z.string().regex(/^[0-9a-f]{16}$/);
const time = z.iso.datetime();

const journalFile = z.strictObject({ file: inside, backup, before: mark, after: mark });
const journalEntry = z.strictObject({ files: z.array(journalFile).min(1), time, tables: z.string() });
const pendingFile = z
  .strictObject({ ...journalFile.shape, temporary: inside, undoes: backup.optional() })
  .refine(
    ({ file, temporary }) =>
      posix.dirname(slashed(temporary)) === posix.dirname(slashed(file)) && isTemporaryOf(basename(temporary), basename(file)),
    "has a name that this program does not make",
  );
const pending = z.strictObject({
  hatchfold: z.literal(1),
  verb: z.enum(["fold", "undo"]),
  files: z.array(pendingFile).min(1),
  time,
  tables: z.string(),
});

/** One file of a fold. Paths are relative to the folder of the source. */
export type JournalFile = Readonly<z.infer<typeof journalFile>>;

/** One fold in place: its files with their fingerprints before and after, when (ISO 8601, UTC), and the path to the tables. */
export interface JournalEntry {
  readonly files: readonly JournalFile[];
  readonly time: string;
  readonly tables: string;
}

/** Files that are being replaced together: by a fold, or by the undoing of one. */
export interface Pending {
  readonly hatchfold: 1;
  readonly verb: "fold" | "undo";
  readonly files: readonly PendingFile[];
  readonly time: string;
  readonly tables: string;
}

export interface PendingFile extends JournalFile {
  readonly temporary: string;
  /** The backup that an undo puts back, and that is not needed any more when it is done. */
  readonly undoes?: string;
}

const slashed = (path: string): string => path.replaceAll("\\", "/");

/** The folder of a source's folds: that of the file itself, wherever links to it are, or the folder of a set. */
export async function rootOf(path: string): Promise<string> {
  try {
    const real = await realpath(path);
    return (await stat(real)).isDirectory() ? real : dirname(real);
  } catch (error) {
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: path });
  }
}

export class KeptFolder {
  private constructor(readonly root: string) {}

  get path(): string {
    return join(this.root, FOLDER);
  }

  /** The folder as it is there, or `null`. @throws {@link SourceError} when it cannot be trusted */
  static async find(root: string): Promise<KeptFolder | null> {
    const path = join(root, FOLDER);
    const info = await lookAt(path);
    if (info === null) return null;
    if (!info.isDirectory()) throw new SourceError("kept-strange", { what: "it is a link or a file, not a folder" }, { file: path });
    if (!isOurs(info)) throw new SourceError("kept-strange", { what: "it belongs to another user" }, { file: path });
    return new KeptFolder(root);
  }

  static async make(root: string): Promise<KeptFolder> {
    const path = join(root, FOLDER);
    try {
      await mkdir(path).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== "EEXIST") throw error;
      });
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: path });
    }
    return (await KeptFolder.find(root))!;
  }

  journal(): Promise<readonly JournalEntry[]> {
    return this.read(JOURNAL, z.array(journalEntry), []);
  }

  writeJournal(entries: readonly JournalEntry[]): Promise<void> {
    return this.write(JOURNAL, entries);
  }

  pending(): Promise<Pending | null> {
    return this.read(PENDING, pending, null);
  }

  writePending(what: Pending): Promise<void> {
    return this.write(PENDING, what);
  }

  removePending(): Promise<void> {
    return rm(join(this.path, PENDING), { force: true });
  }

  /** Is there a plain file of ours at this place below the source's folder, reached without links? */
  async holds(file: string): Promise<boolean> {
    const path = join(this.root, file);
    const info = await lookAt(path);
    return info?.isFile() === true && (await realpath(path)) === path;
  }

  private write(name: string, what: unknown): Promise<void> {
    return writeWhole(join(this.path, name), encode(`${JSON.stringify(what, null, 2)}\n`));
  }

  private async read<T>(name: string, schema: z.ZodType<T>, none: T): Promise<T> {
    const path = join(this.path, name);
    const info = await lookAt(path);
    if (info === null) return none;
    const strange = (what: string): SourceError => new SourceError("kept-strange", { what }, { file: path });
    if (!info.isFile()) throw strange("it is a link, a pipe or a folder, not a plain file");
    if (!isOurs(info)) throw strange("it belongs to another user");
    if (info.size > MOST) throw strange("it is far too large");
    const found = schema.safeParse(parse(await readPlain(path)));
    if (found.success) return found.data;
    const { path: where, message } = found.error.issues[0];
    throw strange(`${where.length === 0 ? "its contents" : where.join(" → ")}: ${message}`);
  }
}

/** Does not follow a link that took the file's place a moment ago. */
async function readPlain(path: string): Promise<string> {
  try {
    const handle = await open(path, constants.O_RDONLY | (constants.O_NOFOLLOW ?? 0) | (constants.O_NONBLOCK ?? 0));
    return await closing(handle, (file) => file.readFile("utf8"));
  } catch (error) {
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: path });
  }
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
