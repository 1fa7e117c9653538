/** Turns of phrase that the sentences share, and the facts they are made of. */
export const list = (words: readonly string[]): string => words.map((word) => `"${word}"`).join(", ");
export const perhaps = (word: string | null, otherwise = ""): string => (word === null ? otherwise : `Perhaps "${word}" is meant.`);
export const shown = (text: string): string => (text.length > 40 ? `"${text.slice(0, 40)}…"` : `"${text}"`);
export const firstFew = (rows: readonly number[]): string => rows.slice(0, 5).join(", ") + (rows.length > 5 ? ", …" : "");
/** Where rows are, in brackets; nothing where people see none of them, as with records that follow others. */
export const atRows = (rows: readonly number[]): string => {
  const known = rows.filter((row) => row > 0);
  return known.length === 0 ? "" : ` (${known.length === 1 ? "row" : "rows"} ${firstFew(known)})`;
};
export const number = (n: number): string => n.toLocaleString("en");
export const count = (n: number, one: string, many = `${one}s`): string => `${number(n)} ${n === 1 ? one : many}`;
export const seen = (text: string): string => (text === "" ? "the end of the line" : `"${text}"`);

export interface Seen {
  readonly seen: string;
  readonly byte: number;
}

/** Names of the elements that are open, the outermost first. */
export interface Open {
  readonly open: readonly string[];
}

export const within = (open: readonly string[]): string => {
  const names = open.map((name) => `<${name}>`);
  return (names.length > 8 ? [...names.slice(0, 3), "…", ...names.slice(-3)] : names).join(" ");
};
export const inside = (open: readonly string[]): string => (open.length === 0 ? "" : `, inside ${within(open)}`);
export interface Nearest {
  readonly nearest: string | null;
}

export interface Titled {
  readonly title: string;
}

/** An option as callers of the library write it; the command line turns it into a flag (`--copies new`). */
export const option = (name: string, value?: string | true): string =>
  value === undefined ? `{ ${name} }` : `{ ${name}: ${value === true ? "true" : `"${value}"`} }`;
