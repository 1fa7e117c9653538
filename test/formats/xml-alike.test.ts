/**
 * Records that are worded like one before are gone through faster. In pieces of a few bytes no record is
 * ever in view as a whole, so a source cut up like that shows what must come out.
 */
import fc from "fast-check";
import { expect, test } from "vitest";
import { fold, hatch, PlanError, SourceError, TablesError, type ByteSource, type MemoryTables } from "hatch-fold";
import { Random } from "../support/random.js";
import { bytes, readRows, setCell, text } from "../support/sheets.js";
import { RUNS, law } from "../support/laws.js";

const PLAN = `
hatchfold: 1
sources: { source: { file: alike.xml, format: xml } }
tables:
  wards: { rows: all/ward, columns: { code: "@code" } }
  lights:
    rows: all/ward/light
    inside: wards
    columns: { code: "@code", on: "@on", name: name, stone: tower/@stone, tower: tower, note: deep/note, place: { at: ":index" } }
  masts: { rows: all/ward/mast, inside: wards, columns: { name: name, kinds: { at: kind, pack: "; " }, locks: { at: cap/@lock, pack: " " } } }
`;
/** The same where lights are in a namespace. */
const BOUND = PLAN.replace("format: xml", "format: xml, namespaces: { c: urn:coast }").replace("ward/light", "ward/c:light");

/** Texts that need no second look, and others. */
const PLAIN = ["Skarv", "Nordlys", "Ærø", "7", "007", "two words", "D"];
const ODD_TEXTS = ["", " lead", "trail ", "a &amp; b", "x]]y", "\n      laid out\n    ", "a\nb", "<![CDATA[a < b]]>", "<b>x</b>"];
const ODD_VALUES = ["", "a &amp; b", " x", "tab\there", "a > b"];

/** A document of some wards, whose lights are worded in a few ways, and now and then in another. */
function document(seed: number, bound: boolean): string {
  const random = new Random(seed);
  const line = random.pick(["\n", "\n", "\r\n", ""]);
  const often = random.pick([3, 20, 60]);
  const prefix = bound ? random.pick(["c:", "d:"]) : "";
  const odd = (usual: string, ...others: string[]): string => (random.chance(often * 4) ? random.pick(others) : usual);
  const attribute = (name: string): string => {
    const quote = odd('"', "'");
    return `${odd(" ", "  ", "\n")}${name}${odd("=", " = ")}${quote}${odd(random.pick(PLAIN), ...ODD_VALUES)}${quote}`;
  };
  const some = (text: string): string => (random.chance(often) ? "" : text);
  const leaf = (name: string, depth: number, attributes = ""): string =>
    some(
      line +
        " ".repeat(depth * 2) +
        odd("", "<!-- old -->", "<?keep?>", "<skip>7</skip>", "stray") +
        (random.chance(often) ? `<${name}${attributes}/>` : `<${name}${attributes}>${odd(random.pick(PLAIN), ...ODD_TEXTS)}</${name}>`),
    );
  const end = (depth: number): string => line + " ".repeat(depth * 2);
  const light = (): string =>
    `${end(2)}<${prefix}light${some(attribute("code"))}${some(attribute("on"))}${odd("", ' xml:space="preserve"', ' xmlns:p="u"')}>` +
    `${leaf("name", 3)}${leaf("tower", 3, some(attribute("stone")))}${some(`${end(3)}<deep>${leaf("note", 4)}${end(3)}</deep>`)}${end(2)}</${prefix}light>`;
  const mast = (): string =>
    `${end(2)}<mast>${leaf("name", 3)}${Array.from({ length: random.next(4) }, () => leaf("kind", 3)).join("")}` +
    `${Array.from({ length: random.next(3) }, () => `${end(3)}<cap lock="${random.next(2)}"/>`).join("")}${end(2)}</mast>`;
  const ward = (w: number): string =>
    `${end(1)}<ward code="W${w}"${odd("", ' xmlns:c="urn:other"', ' xmlns:d="urn:coast"')}>${Array.from({ length: 2 + random.next(14) }, () => (random.chance(3) ? mast() : light())).join(odd("", "<!-- next -->"))}${end(1)}</ward>`;
  return `<all${bound ? ' xmlns:c="urn:coast" xmlns:d="urn:coast"' : ""}>${Array.from({ length: 1 + random.next(3) }, (_, w) => ward(w)).join("")}${end(0)}</all>`;
}

function inPieces(whole: Uint8Array, size: number): ByteSource {
  return {
    name: "alike.xml",
    size: whole.length,
    read: (start, end) => Promise.resolve(whole.subarray(start, end)),
    async *chunks(start = 0) {
      for (let at = start; at < whole.length; at += size) yield await Promise.resolve(whole.slice(at, at + size));
    },
  };
}

/** What comes of it: the tables, or what is wrong and where. */
async function outcome(source: string | ByteSource, plan: string): Promise<MemoryTables | string> {
  try {
    return (await hatch(source, { name: "alike.xml", plan })).tables;
  } catch (error) {
    if (error instanceof PlanError) return error.message;
    if (!(error instanceof SourceError)) throw error;
    return `${error.code} at ${error.place.line}:${error.place.column}`;
  }
}

/** A document, a plan for it, and the size of the pieces it is cut into. */
const cases = fc.tuple(fc.nat(), fc.integer({ min: 1, max: 40 }), fc.boolean()).map(([seed, size, bound]) => ({
  random: new Random(seed),
  source: document(seed, bound),
  plan: bound ? BOUND : PLAN,
  size,
}));

test("the same rows, and the same edits of them, whether records are in view as a whole or not", () =>
  law(
    cases,
    async ({ random, source, plan, size }) => {
      const whole = await outcome(source, plan);
      const pieces = await outcome(inPieces(bytes(source), size), plan);
      if (typeof whole === "string" || typeof pieces === "string") return expect(whole).toBe(pieces);
      expect([...whole.contents]).toEqual([...pieces.contents]);
      const rows = readRows(whole, "lights.csv");
      fc.pre(rows.length > 1);
      for (let n = 0; n < 3; n++) {
        const title = random.pick(["code", "on", "name", "stone", "note"]);
        const row = 2 + random.next(rows.length - 1);
        for (const tables of [whole, pieces]) setCell(tables, "lights.csv", row, title, n === 0 ? "new & other" : "Ny");
      }
      const folded: string[] = [];
      for (const one of [source, inPieces(bytes(source), size)]) {
        try {
          folded.push(text((await fold(whole, { source: one, name: "alike.xml" })).bytes));
        } catch (error) {
          if (!(error instanceof TablesError)) throw error;
          folded.push(error.message);
        }
      }
      expect(folded[0]).toBe(folded[1]);
    },
    RUNS,
  ));

test("the same faults, at the same place", () =>
  law(
    cases,
    async ({ random, source, plan, size }) => {
      const at = Math.floor(source.length / 2) + random.next(Math.floor(source.length / 2));
      const broken =
        source.slice(0, at) + random.pick(["<", "&", "", "</light>", '"', "]]>", "\u0001", "é"]) + source.slice(at + random.next(2));
      const [whole, pieces] = [await outcome(broken, plan), await outcome(inPieces(bytes(broken), size), plan)];
      const shown = (one: MemoryTables | string): unknown => (typeof one === "string" ? one : [...one.contents]);
      expect(shown(whole)).toEqual(shown(pieces));
    },
    RUNS,
  ));
