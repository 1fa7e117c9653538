/** The laws for JSON. */
import fc from "fast-check";
import { expect, test } from "vitest";
import { fold, hatch, readPlan } from "hatch-fold";
import { anyTree, json, recordJson, writeJson } from "../support/json-docs.js";
import { describeLaws, law } from "../support/laws.js";

describeLaws({
  name: "document.json",
  anything: json,
  records: recordJson,
  wellFormed: (text) => void JSON.parse(text.replace(/^\ufeff/, "")),
});

test("also in UTF-16, with and without a byte-order mark", () =>
  law(fc.tuple(json, fc.boolean(), fc.boolean()), async ([written, little, bom]) => {
    const units = (bom ? "\ufeff" : "") + written.replace(/^\ufeff/, "");
    fc.pre(bom || (/^[\x20-\x7e]{2}/.test(units) && units.length >= 2));
    const source = new Uint8Array(units.length * 2);
    for (let i = 0; i < units.length; i++) new DataView(source.buffer).setUint16(2 * i, units.charCodeAt(i), little);
    const { tables, receipt } = await hatch(source);
    expect(receipt.source.encoding).toBe(little ? "utf-16le" : "utf-16be");
    expect((await fold(tables, { source })).bytes).toEqual(source);
  }));

test("anything that can be drafted can be read back as a plan", () =>
  law(fc.tuple(anyTree, fc.nat()), async ([tree, seed]) => {
    const { plan } = await hatch(writeJson(tree, seed));
    expect((await readPlan(plan.text)).tables.map((table) => table.name)).toEqual(plan.tables.map((table) => table.name));
  }));
