/**
 * Paths say where something is, relative to the top of the source (rows) or to a record (columns).
 *
 * Names are joined by `/`; in a name `~1` is `/` and `~0` is `~` (RFC 6901), and `~` before another
 * character takes that character as it stands. `*` is every member of a keyed record or every item
 * of a list in a list, `:3` the third item of such a list, `:key` the name a member was found under,
 * `:index` the place (from 1) in the list, and `.` alone is the value itself.
 */
export type Step =
  { readonly kind: "name"; readonly name: string } | { readonly kind: "any" } | { readonly kind: "place"; readonly place: number };

export interface Path {
  readonly steps: readonly Step[];
  /** What is taken at the end of the steps. */
  readonly end: "value" | "key" | "index";
}

/** Reads a path; `null` when `:` is followed by something that is not `key`, `index` or a number from 1. */
export function parsePath(text: string): Path | null {
  if (text === ".") return { steps: [], end: "value" };
  const steps: Step[] = [];
  let end: Path["end"] = "value";
  const parts = text.split("/");
  for (const [i, part] of parts.entries()) {
    if (part === "*") steps.push({ kind: "any" });
    else if (part.startsWith(":")) {
      const last = i === parts.length - 1;
      if (last && part === ":key") end = "key";
      else if (last && part === ":index") end = "index";
      else if (/^:[1-9]\d{0,8}$/.test(part)) steps.push({ kind: "place", place: Number(part.slice(1)) - 1 });
      else return null;
    } else steps.push({ kind: "name", name: unescapeName(part) });
  }
  return { steps, end };
}

export function formatPath(path: Path): string {
  const parts = path.steps.map(formatStep);
  if (path.end !== "value") parts.push(`:${path.end}`);
  return path.steps.length === 0 && path.end === "value" ? "." : parts.join("/");
}

export function formatStep(step: Step): string {
  if (step.kind === "any") return "*";
  if (step.kind === "place") return `:${step.place + 1}`;
  return escapeName(step.name);
}

function escapeName(name: string): string {
  const escaped = name.replaceAll("~", "~0").replaceAll("/", "~1");
  return escaped === "*" || escaped === "." || escaped.startsWith(":") ? `~${escaped}` : escaped;
}

function unescapeName(part: string): string {
  return part.replace(/~(.)/gsu, (_, c: string) => (c === "0" ? "~" : c === "1" ? "/" : c));
}

export function sameStep(a: Step, b: Step): boolean {
  if (a.kind === "name") return b.kind === "name" && a.name === b.name;
  if (a.kind === "place") return b.kind === "place" && a.place === b.place;
  return b.kind === a.kind;
}

/** Do the steps begin with those of `prefix`? */
export function startsWith(steps: readonly Step[], prefix: readonly Step[]): boolean {
  return prefix.length <= steps.length && prefix.every((step, i) => sameStep(step, steps[i]));
}

/** The steps that lead from `outer` to `inner`, or `null` when `inner` is not inside `outer`. */
export function stepsBetween(outer: Path, inner: Path): readonly Step[] | null {
  if (outer.steps.length > inner.steps.length) return null;
  return outer.steps.every((step, i) => sameStep(step, inner.steps[i])) ? inner.steps.slice(outer.steps.length) : null;
}
