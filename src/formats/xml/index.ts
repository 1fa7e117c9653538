/** XML 1.0 with namespaces. */
import type { Format } from "../format.js";
import { declaredEncoding, sniff } from "./sniff.js";

export const xml: Format = {
  name: "xml",
  title: "XML",
  endings: [".xml"],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  sniff,
  otherEncoding: "utf-8",
  declaredEncoding,
  load: () => import("./dialect.js").then(({ code }) => code),
};
