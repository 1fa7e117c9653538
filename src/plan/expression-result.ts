/** What expressions give, what they ask for, and how they fail. */

export type Scalar = string | number | bigint | boolean | null;

export interface Expression {
  (values: Record<string, unknown>): unknown;
  readonly text: string;
  readonly uses: Uses;
  /** What is compared, where the whole expression is a comparison: a text each. */
  readonly sides: readonly string[];
}

/** What an expression asks for. */
export interface Uses {
  /** Names that stand alone: `height`, `value`. */
  readonly names: ReadonlySet<string>;
  /** What is named in a record: `x.height`, `x["tower height"]`; by the name of the record where it has one. */
  readonly members: ReadonlyMap<string, ReadonlySet<string>>;
  /** Names that are used in another way than for what is in them. */
  readonly whole: ReadonlySet<string>;
}

/** First line of an evaluation error, for a message. */
export function firstLine(error: unknown): string {
  const [line] = (error instanceof Error ? error.message : String(error)).split("\n");
  return /^no such overload: .*dyn<null>/.test(line) ? "a cell that it names is blank" : line;
}
