/** JSON Pointers (RFC 6901) of places in the source: for people, reports and patches. */
import type { Trail } from "../model/trail.js";
import { partAt, type SourceText } from "../source/parts.js";
import { escapePointer } from "../model/pointer.js";

const NO_SOURCE = {};

export class Pointers {
  private readonly names = new Map<number, string>();

  constructor(
    private readonly parts: readonly SourceText[],
    private readonly set: boolean,
  ) {}

  /** The file, where there are several. */
  source(file: number): { source?: string } {
    return this.set ? { source: this.parts[file].name } : NO_SOURCE;
  }

  /** At once, unless a name on the way has to be read. */
  of(trail: Trail): string | Promise<string> {
    let pointer = "";
    for (const step of trail) {
      if (typeof step === "object") return this.withNames(trail);
      pointer += `/${typeof step === "string" ? escapePointer(step) : step}`;
    }
    return pointer;
  }

  private async withNames(trail: Trail): Promise<string> {
    let pointer = "";
    for (const step of trail) {
      const name = typeof step === "object" ? await this.name(step[0], step[1]) : step;
      pointer += `/${typeof name === "string" ? escapePointer(name) : name}`;
    }
    return pointer;
  }

  private async name(start: number, end: number): Promise<string> {
    const known = this.names.get(start);
    if (known !== undefined) return known;
    const { base, text, dialect } = partAt(this.parts, start);
    const name = dialect.nameText(await text.read(start - base, end - base));
    this.names.set(start, name);
    return name;
  }
}
