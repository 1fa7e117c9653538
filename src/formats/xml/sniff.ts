/** Is this XML, in which encoding, with which namespaces? The first bytes tell. */
import { decode } from "../../bytes/writer.js";
import type { Sniffed } from "../format.js";
import type { Settings } from "../../model/plan.js";

export function sniff(head: Uint8Array, name: string): Sniffed {
  const text = decode(head.subarray(0, 1024))
    .replace(/^\ufeff/, "")
    .trimStart();
  const named = /\.(?:xml|xsd|xsl|xslt|svg|gml|kml|gpx|rdf|rss|atom)$/i.test(name);
  if (text.startsWith("<?xml")) return { score: 1, why: "it begins with <?xml" };
  if (/^<(?:[\p{L}_]|!--|!DOCTYPE\s)/u.test(text))
    return { score: named ? 1 : 0.7, why: `it begins with ${/^<[^\s>]{0,20}/.exec(text)![0]}` };
  if (named) return { score: 0.6, why: "its name ends like that of an XML file" };
  return { score: 0, why: "it does not begin like XML" };
}

/** The encoding in the XML declaration (section 4.3.3). */
export function declaredEncoding(head: Uint8Array): string | undefined {
  return /^(?:\ufeff|\u00ef\u00bb\u00bf)?<\?xml\s[^>]*?encoding\s*=\s*["']([A-Za-z][\w.-]*)["']/.exec(
    String.fromCharCode(...head.subarray(0, 256)),
  )?.[1];
}

/** Prefixes that the root element binds. */
export function guessNamespaces(head: Uint8Array): Settings {
  const text = decode(head).replace(/<!--[\s\S]*?-->|<\?[\s\S]*?\?>|<!DOCTYPE[^>[]*(?:\[[\s\S]*?\]\s*)?>/g, "");
  const root = /<[^>]*>/.exec(text)?.[0] ?? "";
  const bound = [...root.matchAll(/\sxmlns:([\w.-]+)\s*=\s*(?:"([^"]*)"|'([^']*)')/g)].map(([, prefix, a, b]) => [prefix, a ?? b] as const);
  const known = bound.filter(([prefix]) => prefix !== "xsi" && prefix !== "xml");
  return known.length === 0 ? {} : { namespaces: Object.fromEntries(known) };
}
