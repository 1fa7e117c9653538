/** A workbook as it came back (ISO/IEC 29500-1): its sheets, the texts they share, and how its numbers are shown. */
import { openParts, type ZipPart } from "../../bytes/zip-parts.js";
import type { ByteSource } from "../../bytes/source.js";
import { ByteWriter, decode } from "../../bytes/writer.js";
import { SourceError } from "../../errors/error.js";
import { MarkupScanner, type TagTaker } from "./markup.js";
import { SIGN_NAME } from "./names.js";
import { formOf, type NumberForm } from "./numbers.js";
import { unescapeCell } from "./text.js";

export interface BookSheet {
  readonly name: string;
  /** Where its part is in the archive. */
  readonly path: string;
  readonly part: ZipPart;
  readonly isHidden: boolean;
  /** Of which hatch it says it is. */
  readonly sign?: string;
}

/** Parts that are read again. */
interface BookParts {
  readonly list: { readonly path: string; readonly part: ZipPart };
  /** The texts that cells share. */
  readonly texts: ZipPart | null;
}

export class Book {
  private texts: SharedTexts | null = null;

  private constructor(
    readonly name: string,
    readonly sheets: readonly BookSheet[],
    /** By the number of a cell's style. */
    readonly forms: readonly NumberForm[],
    readonly from1904: boolean,
    private readonly parts: BookParts,
  ) {}

  /** The part that lists the sheets. */
  get list(): BookParts["list"] {
    return this.parts.list;
  }

  static async open(source: ByteSource): Promise<Book> {
    const parts = await openParts(source);
    const broken = (): never => {
      throw new SourceError("workbook-broken", {}, { file: source.name });
    };
    const read = async (path: string, tell: Teller): Promise<void> => {
      const part = parts.get(path);
      if (part !== undefined) await readTags(part, source.name, tell);
    };
    const top = (await relations(read, "")).find(({ type }) => type.endsWith("/officeDocument"))?.path ?? broken();
    const found: { name: string; id: string; isHidden: boolean }[] = [];
    let from1904 = false;
    await read(top, (name, attribute, close) => {
      if (close) return;
      if (name === "sheet")
        found.push({ name: attribute("name") ?? "", id: attribute("id") ?? "", isHidden: (attribute("state") ?? "visible") !== "visible" });
      if (name === "workbookPr") from1904 = /^(?:1|true)$/.test(attribute("date1904") ?? "");
    });
    const listed = parts.get(top) ?? broken();
    const signs = await signsIn(listed, source.name);
    const targets = await relations(read, top);
    const sheets = found.flatMap(({ name, id, isHidden }, i): BookSheet[] => {
      const target = targets.find((one) => one.id === id);
      const part = target === undefined ? undefined : parts.get(target.path);
      // charts have sheets of their own
      return part === undefined || target?.type.endsWith("/worksheet") !== true
        ? []
        : [{ name, path: target.path, part, isHidden, sign: signs.get(i) }];
    });
    if (sheets.length === 0) broken();
    const pathOf = (type: string): string => targets.find((one) => one.type.endsWith(type))?.path ?? "";
    const forms = await formsIn(read, pathOf("/styles"));
    return new Book(source.name, sheets, forms, from1904, {
      list: { path: top, part: listed },
      texts: parts.get(pathOf("/sharedStrings")) ?? null,
    });
  }

  /** The texts that cells name by number. */
  async sharedTexts(): Promise<SharedTexts> {
    if (this.texts !== null) return this.texts;
    const texts = new SharedTexts();
    if (this.parts.texts !== null) await readPart(this.parts.texts, this.name, texts);
    return (this.texts = texts);
  }
}

type Teller = (name: string, attribute: (name: string) => string | null, close: boolean) => void;
type ReadPart = (path: string, tell: Teller) => Promise<void>;

export async function readPart(part: ZipPart, file: string, taker: TagTaker): Promise<void> {
  const scanner = new MarkupScanner(taker, file);
  await part.read((piece) => scanner.write(piece));
  scanner.end();
}

function readTags(part: ZipPart, file: string, tell: Teller): Promise<void> {
  const nothing = (): null => null;
  return readPart(part, file, {
    wantsText: false,
    open: (name, attribute) => tell(name, attribute, false),
    close: (name) => tell(name, nothing, true),
    text: () => undefined,
  });
}

/** What a part is related to: kinds of parts, and where they are. */
async function relations(read: ReadPart, path: string): Promise<{ id: string; type: string; path: string }[]> {
  const folder = path.slice(0, path.lastIndexOf("/") + 1);
  const found: { id: string; type: string; path: string }[] = [];
  await read(`${folder}_rels/${path.slice(folder.length)}.rels`, (name, attribute, close) => {
    if (name !== "Relationship" || close) return;
    const target = attribute("Target") ?? "";
    found.push({ id: attribute("Id") ?? "", type: attribute("Type") ?? "", path: resolved(folder, target) });
  });
  return found;
}

function resolved(folder: string, target: string): string {
  const steps: string[] = [];
  for (const step of (target.startsWith("/") ? target : `${folder}${target}`).split("/")) {
    if (step === "..") steps.pop();
    else if (step !== "" && step !== ".") steps.push(step);
  }
  return steps.join("/");
}

/** Signs of hatches by the number of their sheet, as names that belong to it. */
async function signsIn(part: ZipPart, file: string): Promise<ReadonlyMap<number, string>> {
  const signs = new Map<number, string>();
  let sheet: number | null = null;
  await readPart(part, file, {
    get wantsText() {
      return sheet !== null;
    },
    open(name, attribute) {
      if (name !== "definedName" || attribute("name") !== SIGN_NAME) return;
      const local = attribute("localSheetId");
      sheet = local === null ? null : Number(local);
    },
    close(name) {
      if (name === "definedName") sheet = null;
    },
    text(text) {
      signs.set(sheet!, text.replace(/^=?"|"$/g, ""));
    },
  });
  return signs;
}

async function formsIn(read: ReadPart, path: string): Promise<NumberForm[]> {
  const codes = new Map<number, string>();
  const forms: NumberForm[] = [];
  let inCells = false;
  await read(path, (name, attribute, close) => {
    if (name === "cellXfs") inCells = !close;
    else if (close) return;
    else if (name === "numFmt") codes.set(Number(attribute("numFmtId")), attribute("formatCode") ?? "");
    else if (name === "xf" && inCells) forms.push(formOf(Number(attribute("numFmtId") ?? 0), codes.get(Number(attribute("numFmtId")))));
  });
  return forms;
}

/** Texts that cells share, as bytes: there may be a million. */
export class SharedTexts implements TagTaker {
  private readonly bytes = new ByteWriter(1 << 16);
  private readonly ends: number[] = [];
  private isText = false;
  private isReading = false;

  get wantsText(): boolean {
    return this.isText;
  }

  open(name: string): void {
    if (name === "t") this.isText = !this.isReading;
    else if (name === "rPh") this.isReading = true;
  }

  close(name: string): void {
    if (name === "t") this.isText = false;
    else if (name === "rPh") this.isReading = false;
    else if (name === "si") this.ends.push(this.bytes.length);
  }

  text(text: string): void {
    this.bytes.text(text);
  }

  at(index: number): string {
    const to = this.ends[index];
    return to === undefined ? "" : unescapeCell(decode(this.bytes.bytes, index === 0 ? 0 : this.ends[index - 1], to));
  }
}
