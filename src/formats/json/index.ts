/** JSON (RFC 8259). */
import { decode } from "../../bytes/writer.js";
import { Kind, type Format } from "../format.js";
import { JsonRenderer } from "./render.js";
import { JsonScanner } from "./scan.js";
import { sniff } from "./sniff.js";
import { decodeText, encodeName, unescape } from "./text.js";

export const json: Format = {
  name: "json",
  title: "JSON",
  endings: [".json"],
  sniff,
  scanner: (root, listener) => new JsonScanner(root, listener),
  decode: (bytes, start, end, kind) => (kind === Kind.Text ? decodeText(bytes, start, end) : decode(bytes, start, end)),
  unescape,
  encodeName,
  renderer: (source, manner) => new JsonRenderer(source, manner),
};
