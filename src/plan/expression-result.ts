/** What expressions give, and how they fail. */

export type Scalar = string | number | boolean | null;
export type Expression = (values: Record<string, unknown>) => unknown;

/** First line of an evaluation error, for a message. */
export function firstLine(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split("\n")[0];
}
