/** A chunk of a source is valid only until the next one is asked for: nothing looks at it any more then. */
import { readdirSync, readFileSync, existsSync } from "node:fs";
import { afterAll, expect, test } from "vitest";
import { check, fold, hatch, survey, type ByteSource } from "hatch-fold";
import { setCell } from "./support/sheets.js";

const DEMO = new URL("../demo/", import.meta.url);
const files = readdirSync(DEMO).filter((name) => /\.(?:json|xml|csv|txt|vcf|edi|dat)$/.test(name));

/** Each chunk is written over when the next one is asked for. */
function fleeting(name: string, bytes: Uint8Array, size: number): ByteSource {
  return {
    name,
    size: bytes.length,
    read: (start, end) => Promise.resolve(bytes.slice(start, end)),
    async *chunks(start = 0) {
      for (let at = start; at < bytes.length; at += size) {
        const chunk = await Promise.resolve(bytes.slice(at, at + size));
        yield chunk;
        chunk.fill(0x7e);
      }
    },
  };
}

const wereFolded = new Set<string>();
afterAll(() => expect(wereFolded.size).toBeGreaterThan(files.length / 2));

test.each(files)("%s", async (name) => {
  const bytes = new Uint8Array(readFileSync(new URL(name, DEMO)));
  const planned = new URL(name.replace(/\.\w+$/, "-plan.yaml"), DEMO);
  const plan = existsSync(planned) ? readFileSync(planned, "utf8") : undefined;
  const folded: string[] = [];
  for (const size of [bytes.length + 1, 4096, 97]) {
    const source = fleeting(name, bytes, size);
    const shape = await survey(source, {}).catch(() => null);
    const { tables } = await hatch(source, { plan });
    const [file, sheet] = [...tables.contents].find(([one, content]) => one.endsWith(".csv") && content.length > 60)!;
    const titles = new TextDecoder().decode(sheet).split("\r\n")[0].split(",");
    const title = titles.find((one) => /name|note|remark|text|place|what/i.test(one)) ?? titles.at(-1)!;
    setCell(tables, file, 2, title, "x");
    const { problems } = await check(tables, { source });
    if (problems.length === 0) wereFolded.add(name);
    const made = problems.length > 0 ? "" : Buffer.from((await fold(tables, { source })).bytes).toString("latin1");
    folded.push(JSON.stringify([shape?.kinds.map((kind) => [kind.name, kind.count]), [...tables.contents.keys()], problems.length, made]));
  }
  expect(new Set(folded).size).toBe(1);
});
