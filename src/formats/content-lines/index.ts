/** Content lines: contacts and calendars, of components with properties, folded and with parameters. */
import { decode } from "../../bytes/writer.js";
import type { Format, Sniffed } from "../format.js";

export const contentLines: Format = {
  name: "content-lines",
  title: "content lines",
  endings: [".vcf", ".ics"],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  sniff,
  otherEncoding: "windows-1252",
  load: () => import("./dialect.js").then(({ code }) => code),
};

function sniff(head: Uint8Array): Sniffed {
  const begin = /^\ufeff?\s*BEGIN:([\w-]+)[ \t]*\r?\n/i.exec(decode(head.subarray(0, 256)));
  return begin === null
    ? { score: 0, why: "it does not begin a component" }
    : { score: 0.97, why: `it begins a component: BEGIN:${begin[1]}` };
}
