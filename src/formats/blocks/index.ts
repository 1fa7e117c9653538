/** Blocks of `Name: value` lines, with blank lines, a separator or `[section]` headings between them. */
import { z } from "zod";
import type { ByteSource } from "../../bytes/source.js";
import type { Format, Manner, Sniffed } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { linesOf, looksLikeText, sampleLines } from "../lines/sample.js";
import { BlockGrammar, isHeading } from "./grammar.js";
import { BlockRenderer } from "./render.js";

const COMMENTS = ["#", ";", "//"];
const PAIR = /^[^\s:=[\]{}"'<>][^:=[\]{}"<>]{0,60}?(?:\[[^\s:=[\]]{1,30}\])?\s*([:=])(?:\s|$|[^/\s])/;

interface BlockWords {
  readonly pair?: string;
  readonly sections?: boolean;
  readonly separator?: string;
  readonly comment?: string;
}

export const blocks: Format = {
  name: "blocks",
  title: "blocks of Name: value lines",
  endings: [".ini", ".desktop", ".properties"],
  settings: {
    pair: z.string().min(1).max(3).describe("between name and value: a colon, unless said"),
    sections: z.boolean().describe("[heading] lines begin the records"),
    separator: z.string().min(1).describe("a line that ends a block, as a blank line does"),
    comment: z.string().min(1).describe("lines that begin with this are comments"),
  },
  sniff,
  otherEncoding: "windows-1252",
  guess: async (source) => guessBlocks(await sampleLines(source)),
  skeleton: () => "",
  dialect(settings: Settings) {
    const { pair = ":", sections = false, separator = null, comment } = settings as BlockWords;
    return new BlockDialect(settings, new BlockGrammar({ pair, sections, separator, comments: comment === undefined ? [] : [comment] }));
  },
};

class BlockDialect extends LineDialect {
  constructor(
    settings: Settings,
    private readonly blocks: BlockGrammar,
  ) {
    super("blocks", settings, blocks);
  }

  override renderer(source: ByteSource, manner: Manner): BlockRenderer {
    return new BlockRenderer(source, manner, this.blocks);
  }
}

function guessBlocks(lines: readonly string[]): Settings {
  const pairs = lines.flatMap((line) => PAIR.exec(line)?.[1] ?? []);
  const pair = pairs.filter((one) => one === "=").length > pairs.length / 2 ? "=" : ":";
  const sections = lines.some(isHeading);
  const comment = COMMENTS.find((mark) => lines.some((line) => line.trimStart().startsWith(mark)));
  const rules = lines.map((line) => line.trim()).filter((line) => /^([-=*%_])\1{2,}$/.test(line) || line === "%%");
  return {
    pair,
    ...(sections ? { sections } : {}),
    ...(rules.length > 0 && !sections ? { separator: rules[0] } : {}),
    ...(comment === undefined ? {} : { comment }),
  };
}

function sniff(head: Uint8Array, name: string): Sniffed {
  if (!looksLikeText(head)) return { score: 0, why: "it is not text" };
  const named = blocks.endings.some((ending) => name.toLowerCase().endsWith(ending));
  const lines = linesOf(head, head.length < 1 << 16);
  const body = lines.filter((line) => line.trim() !== "" && !/^[ \t]/.test(line) && !COMMENTS.some((mark) => line.startsWith(mark)));
  const headings = body.filter(isHeading).length;
  const pairs = body.filter((line) => PAIR.test(line)).length;
  const share = body.length === 0 ? 0 : (pairs + headings) / body.length;
  const folded = lines.filter((line) => /^[ \t]+\S/.test(line)).length;
  if (pairs === 0 || share < 0.8 || folded > 4 * pairs) return { score: 0, why: "its lines are no pairs of name and value" };
  const blank = lines.some((line) => line.trim() === "");
  const sure = headings > 0 || blank || pairs > 2;
  return {
    score: named ? 0.85 : sure ? 0.65 : 0.3,
    why: headings > 0 ? "it has [headings] over pairs of name and value" : "its lines are pairs of name and value",
  };
}
