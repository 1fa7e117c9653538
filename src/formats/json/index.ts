/** JSON (RFC 8259). */
import type { Format } from "../format.js";
import { sniff } from "./sniff.js";

export const json: Format = {
  name: "json",
  title: "JSON",
  endings: [".json", ".jsonc"],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  sniff,
  otherEncoding: "utf-8",
  load: () => import("./dialect.js").then(({ code }) => code),
};
