/**
 * XML Schema (XSD 1.0): documents are checked by libxml2, compiled to WebAssembly. It names lines alone, so a line is begun
 * behind the name of every element, where it changes nothing: a line is then an element.
 */
import { SchemaError } from "../../errors/error.js";
import type { SchemaFile } from "../../model/schema.js";
import type { SchemaFault, Validator } from "../format.js";

/** Comments, CDATA, instructions, the document type; and, by its name, the beginning of an element. */
const MARKUP = /<!--[^]*?-->|<!\[CDATA\[[^]*?\]\]>|<\?[^]*?\?>|<!DOCTYPE[^[>]*(?:\[[^]*?\]\s*)?>|<([^\s/>!?]+)/g;
/** Pages of 64 KiB: libxml2's tree of a document takes some twenty times its text. */
const PAGE = 65_536;
const [LEAST_PAGES, MOST_PAGES, GROWTH] = [512, 65_536, 24];

export function validatorOf(files: readonly SchemaFile[]): Promise<Validator> {
  const [main, ...others] = files.map(({ file, text }) => ({ fileName: plainName(file), contents: inUtf8(text) }));
  return Promise.resolve({
    async validate(text) {
      const { validateXML } = await import("xmllint-wasm");
      const { lined, begins } = withLines(inUtf8(text));
      const pages = Math.min(MOST_PAGES, LEAST_PAGES + Math.ceil((lined.length * GROWTH) / PAGE));
      const { errors } = await validateXML({
        xml: [{ fileName: "document.xml", contents: lined }],
        schema: [main],
        preload: others,
        initialMemoryPages: LEAST_PAGES,
        maxMemoryPages: pages,
      }).catch((error: unknown) => {
        const [reason] = (error instanceof Error ? error.message : String(error)).split("\n");
        throw new SchemaError("schema-broken", { reason: reason.replace(/^[^:]*:\d+: /, "") }, { file: files[0].file });
      });
      const ofSchema = errors.find(
        ({ loc, rawMessage }) => loc?.fileName !== "document.xml" && /parser error|Schemas parser/.test(rawMessage),
      );
      if (ofSchema !== undefined)
        throw new SchemaError(
          "schema-broken",
          { reason: plain(ofSchema.message) },
          { file: files[0].file, line: ofSchema.loc?.lineNumber },
        );
      return errors.flatMap(({ loc, message }) => (loc === null ? [] : [faultOf(plain(message), begins[loc.lineNumber - 1] ?? 0)]));
    },
  });
}

function faultOf(message: string, at: number): SchemaFault {
  const isOfParts = /child element|is not expected|key-sequence/.test(message);
  return { message, isOfParts, at };
}

/** Without the words that say who says it. */
function plain(message: string): string {
  return message
    .replace(/\{[^{}'\s]+\}/g, "")
    .replace(/^Schemas (?:validity|parser) error : /, "")
    .replace(/^(?:parser|validity) error : |\.$/g, "");
}

/** The text with a line for each element, and where each line begins in UTF-8 bytes of the text itself. */
function withLines(text: string): { lined: string; begins: number[] } {
  const begins = [0];
  const pieces: string[] = [];
  const encoder = new TextEncoder();
  let done = 0;
  let bytes = 0;
  const take = (to: number): void => {
    const piece = text.slice(done, to);
    pieces.push(piece);
    let from = 0;
    for (let at = piece.indexOf("\n"); at >= 0; at = piece.indexOf("\n", from)) {
      bytes += encoder.encode(piece.slice(from, at + 1)).length;
      begins.push(bytes);
      from = at + 1;
    }
    bytes += encoder.encode(piece.slice(from)).length;
    done = to;
  };
  for (const match of text.matchAll(MARKUP)) {
    if ((match[1] as string | undefined) === undefined) continue;
    take(match.index + match[0].length);
    pieces.push("\n");
    begins.push(bytes);
  }
  take(text.length);
  return { lined: pieces.join("").replace(/^\ufeff/, ""), begins };
}

/** libxml2 reads UTF-8: where the declaration says the encoding that the text was in stand spaces. */
function inUtf8(text: string): string {
  return text.replace(
    /^(\ufeff?<\?xml[^>]*?)(\s+encoding\s*=\s*(?:"[^"]*"|'[^']*'))/,
    (_, head: string, said: string) => head + " ".repeat(said.length),
  );
}

/** Names that no program takes for an option or a path out of its folder. */
function plainName(file: string): string {
  return file.replace(/^[-/\\]+/, "").replaceAll("\\", "/");
}
