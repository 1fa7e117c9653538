/** The laws for JSON Lines and JSON text sequences. */
import fc from "fast-check";
import { expect } from "vitest";
import { describeLaws } from "../support/laws.js";
import { recordTree, writeJson } from "../support/json-docs.js";
import { Random } from "../support/random.js";

/** Values of a list, each on a line. */
const lines: fc.Arbitrary<string> = fc
  .tuple(
    recordTree.filter((tree) => "items" in tree && tree.items.length > 1),
    fc.nat(),
  )
  .map(([tree, seed]) => {
    const random = new Random(seed);
    const newline = random.pick(["\n", "\r\n"]);
    const separator = random.chance(3) ? "\u001e" : "";
    const values = JSON.parse(writeJson(tree, seed).replace(/^\ufeff/, "")) as unknown[];
    return values.map((value) => separator + JSON.stringify(value)).join(newline) + random.pick(["", newline]);
  });

describeLaws({
  name: "records.jsonl",
  share: 0.4,
  anything: lines,
  records: lines,
  wellFormed: (text) => {
    const values = text.split(/\r?\n/).filter((line) => line !== "");
    for (const value of values) expect(() => JSON.parse(value.replace(/^\u001e/, "")) as unknown).not.toThrow();
  },
});
