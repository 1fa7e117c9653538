/** Cleaning of pasted text (`clean:` in a plan). */

import type { Cleaning } from "../model/plan.js";

const ENTITIES: Readonly<Record<string, string>> = { amp: "&", lt: "<", gt: ">", quot: '"', apos: "'", nbsp: " " };

export function cleaned(text: string, how: readonly Cleaning[]): string {
  const untagged = how.includes("tags") ? withoutTags(text) : text;
  return how.includes("blanks") ? untagged.replace(/[\s\u00a0\u202f]+/g, " ").trim() : untagged;
}

/** Elements of HTML alone: `a < b` stays as it is. */
function withoutTags(text: string): string {
  const plain = text
    .replace(/<br\s*\/?>|<\/(?:p|div|li|tr|h[1-6])>/gi, "\n")
    .replace(/<!--[^]*?-->|<\/?[a-z][a-z0-9-]*(?:\s[^<>]*)?\/?>/gi, "");
  if (plain === text) return text;
  return plain
    .replace(/&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|([a-z]+));/gi, (all, decimal?: string, hex?: string, name?: string) => {
      if (name !== undefined) return ENTITIES[name.toLowerCase()] ?? all;
      const code = decimal === undefined ? parseInt(hex!, 16) : Number(decimal);
      return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : all;
    })
    .replace(/\n+$/, "");
}
