/** Proposes a layout for files of content lines: which components there are, and which properties these have. */
import { VALUE } from "./grammar.js";
import type { ContentInput } from "./settings.js";

/** Properties whose values are texts by the standards: RFC 5545, 3.8, and RFC 6350, 6. */
const TEXTS = new Set(
  "FN NOTE TITLE ROLE UID PRODID LABEL SORT-STRING SUMMARY DESCRIPTION LOCATION COMMENT CONTACT TZID TZNAME X-WR-CALNAME X-WR-CALDESC".split(
    " ",
  ),
);

interface Seen {
  readonly tag: string;
  readonly inside: string | null;
  readonly parameters: Set<string>;
  /** It comes again in one component. */
  again: boolean;
  /** Number of the component that it was in last. */
  last: number;
}

export function guessContent(lines: readonly string[]): ContentInput {
  const seen = new Map<string, Seen>();
  const around: { readonly name: string; readonly number: number }[] = [];
  let components = 0;
  for (const line of unfolded(lines)) {
    const match = /^(?:[\w-]+\.)?([\w-]+)((?:;(?:"[^"]*"|[^":])*)?):(.*)$/s.exec(line);
    if (match === null) continue;
    const [, property, parameters, value] = match;
    const name = property.toUpperCase();
    const component = value.trim().toUpperCase();
    const inside = around.at(-1)?.name ?? null;
    if (name === "END") {
      note(seen, { tag: `END:${component}`, inside: inside ?? component }, -1);
      around.splice(
        Math.max(
          0,
          around.findLastIndex((one) => one.name === component),
        ),
      );
      continue;
    }
    const found = note(seen, { tag: name === "BEGIN" ? `BEGIN:${component}` : name, inside }, around.at(-1)?.number ?? -1);
    if (name === "BEGIN") around.push({ name: component, number: ++components });
    for (const [, parameter] of parameters.matchAll(/;([\w-]+)=/g)) found.parameters.add(parameter.toUpperCase());
  }
  const tags = [...seen.values()].map(({ tag }) => tag);
  const nameOf = ({ tag, inside }: Seen): string =>
    tag.startsWith("BEGIN:")
      ? tag.slice(6)
      : tag.startsWith("END:")
        ? `end of ${tag.slice(4)}`
        : tags.filter((one) => one === tag).length > 1
          ? `${inside} ${tag}`
          : tag;
  const records: Record<string, ContentInput["records"][string]> = {};
  for (const one of seen.values()) {
    const { tag, inside, parameters } = one;
    const isEdge = /^(?:BEGIN|END):/.test(tag);
    records[nameOf(one)] = {
      tag,
      ...(inside === null ? {} : { inside }),
      ...(tag.startsWith("END:") ? { closes: true } : {}),
      ...(isEdge || one.again ? {} : { once: true }),
      ...(TEXTS.has(tag) ? { text: true } : {}),
      fields: isEdge ? [] : [VALUE, ...parameters],
    };
  }
  return { records };
}

function note(seen: Map<string, Seen>, { tag, inside }: Pick<Seen, "tag" | "inside">, component: number): Seen {
  const id = `${inside} ${tag}`;
  const found = seen.get(id) ?? { tag, inside, parameters: new Set<string>(), again: false, last: -2 };
  found.again ||= found.last === component;
  found.last = component;
  seen.set(id, found);
  return found;
}

function unfolded(lines: readonly string[]): string[] {
  const whole: string[] = [];
  for (const line of lines) {
    if (/^[ \t]/.test(line) && whole.length > 0) whole[whole.length - 1] += line.slice(1);
    else whole.push(line);
  }
  return whole;
}
