/** Reading and writing blocks of lines. */
import type { ByteSource } from "../../bytes/source.js";
import type { WritingStyle, FormatCode } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import type { FieldForms } from "../lines/form-settings.js";
import { withForms } from "../lines/formed.js";
import type { LineGrammar } from "../lines/grammar.js";
import { sampleLines } from "../lines/sample.js";
import { BlockGrammar } from "./grammar.js";
import { BlockRenderer } from "./render.js";
import { guessBlocks } from "./guess.js";

interface BlockWords {
  readonly pair?: string;
  readonly sections?: boolean;
  readonly separator?: string;
  readonly comment?: string;
  readonly fields?: FieldForms;
}

export const code: FormatCode = {
  guess: async (source) => guessBlocks(await sampleLines(source)),
  skeleton: () => "",
  dialect(settings: Settings) {
    const { pair = ":", sections = false, separator = null, comment, fields = {} } = settings as BlockWords;
    const blocks = new BlockGrammar({ pair, sections, separator, comments: comment === undefined ? [] : [comment] });
    return new BlockDialect(settings, blocks, withForms(blocks, Object.entries(fields)));
  },
};

class BlockDialect extends LineDialect {
  constructor(
    settings: Settings,
    private readonly blocks: BlockGrammar,
    grammar: LineGrammar,
  ) {
    super("blocks", settings, grammar);
  }

  override renderer(source: ByteSource, style: WritingStyle): BlockRenderer {
    return new BlockRenderer(source, style, this.blocks, this.grammar);
  }
}
