/** JSON documents as people and programs really write them: odd white space, escapes, numbers and names. */
import fc from "fast-check";
import { Random } from "./random.js";

/** A document's tree; literals are source text, so that spellings can be odd. */
export type Tree = { literal: string } | { items: Tree[] } | { members: [name: string, Tree][] };

const NAMES = [
  "code",
  "name",
  "id",
  "note",
  "tower",
  "lights",
  "tags",
  "x y",
  "",
  "a/b",
  "~",
  "*",
  ".",
  ":key",
  "@at",
  "__proto__",
  "constructor",
  "Ærø",
  "dépôt",
  "2024",
];
const NUMBERS = ["0", "-0", "7", "12", "1.50", "-3.25", "1E5", "1e-7", "12345678901234567890", "0.1000", "1.0e+2"];
const TEXTS = [
  '""',
  '"plain"',
  '" spaced "',
  '"a,b"',
  '"say \\"yes\\""',
  '"line\\nbreak"',
  '"tab\\there"',
  '"\\u00e6r\\u00f8"',
  '"Ærø"',
  '"漢字 и кир"',
  '"\\ud83d\\ude00"',
  '"\\ud800"',
  '"nul \\u0000"',
  '"=1+2"',
  '"+47 123"',
  '"-5"',
  '"@home"',
  '"\'quoted"',
  '"(null)"',
  '"((empty))"',
  '"[]"',
  '"{}"',
  '"(\\"x\\")"',
  '"007"',
  '"1.50"',
  '"true"',
  '"2024-03-05"',
  '"\\/slash\\/"',
  '"a;b\\tc"',
  '"[1, 2]"',
];
const literal = fc.oneof(
  fc.constantFrom(...TEXTS),
  fc.constantFrom(...NUMBERS),
  fc.constantFrom("true", "false", "null"),
  fc.string({ maxLength: 8 }).map((s) => JSON.stringify(s)),
);
const name = fc.oneof({ weight: 8, arbitrary: fc.constantFrom(...NAMES) }, { weight: 1, arbitrary: fc.string({ maxLength: 6 }) });

/** Any tree at all. */
export const anyTree: fc.Arbitrary<Tree> = fc.letrec<{ tree: Tree }>((tie) => ({
  tree: fc.oneof(
    { depthSize: "small", withCrossShrink: true },
    literal.map((value) => ({ literal: value })),
    fc.array(tie("tree"), { maxLength: 5 }).map((items) => ({ items })),
    fc.array(fc.tuple(name, tie("tree")), { maxLength: 5 }).map((members) => ({ members })),
  ),
})).tree;

/** Records in lists in records: what the product is for, with gaps and irregular members here and there. */
export const recordTree: fc.Arbitrary<Tree> = fc.tuple(fc.nat(), fc.integer({ min: 1, max: 4 })).map(([seed, breadth]) => {
  const random = new Random(seed);
  let serial = 0;
  const scalar = (kind: string): Tree => {
    switch (kind) {
      case "code":
        return { literal: JSON.stringify(`${random.pick(["S", "00", "X-"])}${++serial}`) };
      case "number":
        return { literal: random.pick(NUMBERS) };
      case "truth":
        return { literal: random.pick(["true", "false"]) };
      case "date":
        return { literal: `"20${10 + random.next(20)}-0${1 + random.next(9)}-1${random.next(9)}"` };
      case "mixed":
        return { literal: random.pick([...NUMBERS, ...TEXTS, "null", "true"]) };
      default:
        return { literal: random.pick(TEXTS) };
    }
  };
  const record = (depth: number): Tree => {
    const members: [string, Tree][] = [["code", scalar("code")]];
    const maybe = (title: string, make: () => Tree): void => {
      if (!random.chance(4)) members.push([title, random.chance(8) ? { literal: "null" } : make()]);
    };
    maybe("name", () => scalar("text"));
    maybe("height", () => scalar("number"));
    maybe("since", () => scalar("date"));
    maybe("odd", () => scalar("mixed"));
    maybe("tower", () => ({
      members: random.chance(5)
        ? []
        : [
            ["stone", scalar("text")],
            ["tall", scalar("number")],
          ],
    }));
    maybe("tags", () => ({ items: Array.from({ length: random.next(4) }, () => scalar("text")) }));
    if (depth > 0) maybe("lights", () => (random.chance(6) ? record(depth - 1) : { items: list(depth - 1) }));
    if (depth > 0 && random.chance(2))
      maybe("posts", () => ({ members: Array.from({ length: 2 + random.next(4) }, (_, i): [string, Tree] => [`ST${i + 1}`, record(0)]) }));
    if (random.chance(12)) members.push(["name", scalar("text")]);
    return { members: random.chance(5) ? random.shuffle(members) : members };
  };
  const list = (depth: number): Tree[] => Array.from({ length: random.next(breadth + 2) }, () => record(depth));
  return random.pick<() => Tree>([
    () => ({
      members: [
        ["version", { literal: "3" }],
        ["stations", { items: list(2) }],
        ["people", { items: list(0) }],
      ],
    }),
    () => ({ items: list(2) }),
    () => ({ members: Array.from({ length: 2 + random.next(5) }, (_, i): [string, Tree] => [`K-${i}`, record(1)]) }),
  ])();
});

/** Writes a tree with white space chosen by the seed: tight, indented, or anything. */
export function writeJson(tree: Tree, seed: number): string {
  const random = new Random(seed);
  const style = random.next(4);
  const newline = random.pick(["\n", "\r\n"]);
  const unit = random.pick(["  ", "\t", "    "]);
  const any = (): string => (style === 3 ? random.pick(["", " ", "\n", "\t ", " \r\n "]) : "");
  const write = (node: Tree, depth: number): string => {
    if ("literal" in node) return node.literal;
    const [open, close] = "items" in node ? "[]" : "{}";
    const parts =
      "items" in node
        ? node.items.map((item) => write(item, depth + 1))
        : node.members.map(
            ([title, value]) => `${nameLiteral(title, random)}${any()}:${style === 0 ? "" : " "}${any()}${write(value, depth + 1)}`,
          );
    if (parts.length === 0) return open + any() + close;
    if (style === 2) {
      const line = newline + unit.repeat(depth + 1);
      return open + line + parts.join(`,${line}`) + newline + unit.repeat(depth) + close;
    }
    return open + any() + parts.join(`${any()},${style === 0 ? "" : " "}${any()}`) + any() + close;
  };
  return random.pick(["", "", "\ufeff", " \n"]) + write(tree, 0) + random.pick(["", "\n", "\r\n "]);
}

function nameLiteral(name: string, random: Random): string {
  const literal = JSON.stringify(name);
  return random.chance(15) && name.length > 0 && name.charCodeAt(0) < 128
    ? `"\\u${name.charCodeAt(0).toString(16).padStart(4, "0")}${literal.slice(1).replace(/^\\?./, "")}`
    : literal;
}

export const json = fc
  .tuple(fc.oneof({ weight: 3, arbitrary: recordTree }, { weight: 1, arbitrary: anyTree }), fc.nat())
  .map(([tree, seed]) => writeJson(tree, seed));
export const recordJson = fc.tuple(recordTree, fc.nat()).map(([tree, seed]) => writeJson(tree, seed));
