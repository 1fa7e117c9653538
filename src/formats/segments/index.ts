/** Segments: records that a sign ends, with fields and parts of fields behind signs of their own, as electronic documents have them. */
import { decode } from "../../bytes/writer.js";
import type { Format, Sniffed } from "../format.js";
import { separatorsOf } from "./separators.js";

export const segments: Format = {
  name: "segments",
  title: "segments",
  endings: [".edi"],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  sniff,
  otherEncoding: "iso-8859-1",
  load: () => import("./dialect.js").then(({ code }) => code),
};

function sniff(head: Uint8Array): Sniffed {
  const found = separatorsOf(decode(head.subarray(0, 4096)));
  if (found === null) return { score: 0, why: "it does not begin with a service segment" };
  return { score: 0.97, why: `it begins with a service segment; ${found.end} ends segments, ${found.delimiter} stands between fields` };
}
