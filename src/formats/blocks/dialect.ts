/** Reading and writing blocks of lines. */
import type { ByteSource } from "../../bytes/source.js";
import type { WritingStyle, FormatCode } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { sampleLines } from "../lines/sample.js";
import { BlockGrammar } from "./grammar.js";
import { BlockRenderer } from "./render.js";
import { guessBlocks } from "./guess.js";

interface BlockWords {
  readonly pair?: string;
  readonly sections?: boolean;
  readonly separator?: string;
  readonly comment?: string;
}

export const code: FormatCode = {
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

  override renderer(source: ByteSource, style: WritingStyle): BlockRenderer {
    return new BlockRenderer(source, style, this.blocks);
  }
}
