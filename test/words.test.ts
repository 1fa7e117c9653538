/** All that the product says of what is wrong, in one place: `docs/messages.md` shows each code's sentence and hint. */
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import type { Code } from "hatch-fold";
import { sentence, type Words } from "../src/errors/error.js";
import { CELLS } from "../src/errors/words/cells.js";
import { PLANS } from "../src/errors/words/plans.js";
import { ROWS } from "../src/errors/words/rows.js";
import { RULES } from "../src/errors/words/rules.js";
import { SHEETS } from "../src/errors/words/sheets.js";
import { SOURCES } from "../src/errors/words/sources.js";
import { WRITING } from "../src/errors/words/writing.js";
import { freshFolder, inProcess } from "./support/cli.js";

const PARTS: readonly (readonly [title: string, words: object])[] = [
  ["Sources", SOURCES],
  ["Plans, schemas and calls", PLANS],
  ["Sheets and receipts", SHEETS],
  ["Rows", ROWS],
  ["Cells", CELLS],
  ["Rules of a plan", RULES],
  ["Writing", WRITING],
];
const HEAD = `# What the product says

Every error, problem and note has a code, which stays, and facts, which it is about; the sentence and the hint are made of these, and
may be reworded. In the library they are \`code\`, \`facts\`, \`message\` and \`hint\`; hints name options as callers write them
(\`{ source }\`), and the command line says flags (\`--source\`). This page is made by \`test/words.test.ts\`, of an example or two for each
code: \`npx vitest run test/words.test.ts -u\` writes it anew.
`;

interface Sample {
  readonly code: Code;
  readonly facts: object;
}
const SAMPLES = readFileSync(new URL("support/samples.jsonl", import.meta.url), "utf8")
  .trimEnd()
  .split("\n")
  .map((line) => JSON.parse(line) as Sample);

test("each code has words, and docs/messages.md shows them", async () => {
  const sections = PARTS.map(([title, words]) => {
    const entries = Object.entries(words).map(([code, said]) => {
      const told = SAMPLES.filter((one) => one.code === code).map(({ facts }) => sentence(said as Words<Code>, facts));
      expect(told, `test/support/samples.jsonl has an example of ${code}`).not.toEqual([]);
      for (const { message, hint } of told) {
        expect(message).toMatch(/\w/);
        expect(`${message} ${hint}`).not.toMatch(/undefined|\bnull\b.*\bnull\b|NaN|\[object/);
      }
      const names = [...new Set(told.flatMap(({ facts }) => Object.keys(facts)))].map((name) => `\`${name}\``);
      const of = names.length === 0 ? "" : ` of ${names.join(", ")}`;
      return `**\`${code}\`**${of}\n${told.map(({ message, hint }) => `\n> ${inLine(message)}${hint === "" ? "" : `  \n> *${inLine(hint)}*`}\n`).join("")}`;
    });
    return `## ${title}\n\n${entries.join("\n")}`;
  });
  await expect(`${HEAD}\n${sections.join("\n")}`).toMatchFileSnapshot("../docs/messages.md");
});

test("no example is of a code that there is not", () => {
  const codes = new Set(PARTS.flatMap(([, words]) => Object.keys(words)));
  expect(SAMPLES.filter(({ code }) => !codes.has(code))).toEqual([]);
});

/** What Markdown would take for its own is shown as it is. */
function inLine(text: string): string {
  return text.replace(/[\\`*_<>[\]|#~]/g, String.raw`\$&`);
}

test("docs/commands.md shows what the command line says of itself", async () => {
  const folder = freshFolder();
  const helps: string[] = [];
  for (const verb of ["", "survey", "draft", "hatch", "check", "compare", "fold", "undo", "demo"]) {
    const args = [...(verb === "" ? [] : [verb]), "--help"];
    const { status, out } = await inProcess(folder, args);
    expect(status).toBe(0);
    helps.push(`## hatchfold${verb === "" ? "" : ` ${verb}`}\n\n\`\`\`\n${out.trimEnd()}\n\`\`\`\n`);
  }
  await expect(
    `# The command line\n\nWhat \`--help\` says. This page is made by \`test/words.test.ts\`: \`npx vitest run test/words.test.ts -u\` writes it anew.\n\n${helps.join("\n")}`,
  ).toMatchFileSnapshot("../docs/commands.md");
});
