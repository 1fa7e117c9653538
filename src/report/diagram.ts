/**
 * Record kinds and how they belong together, as a picture: nested kinds, kinds that refer to others, and
 * kinds that only link two others are told apart.
 */
import { largest } from "../bytes/lists.js";
import { MADE_BY } from "./words.js";
import { looksLikeId } from "../survey/keys.js";
import type { Shape, ShapeField, ShapeKind } from "../survey/shape.js";
import { visible } from "../errors/visible.js";

export type DiagramKind = "mermaid" | "svg";

/** By the ending of a file's name; `null` when it is neither. */
export function diagramKind(file: string): DiagramKind | null {
  const lower = file.toLowerCase();
  return lower.endsWith(".svg") ? "svg" : lower.endsWith(".mmd") || lower.endsWith(".mermaid") ? "mermaid" : null;
}

interface Relation {
  readonly from: string;
  readonly to: string;
  /** Field that refers; empty where records are inside others. */
  readonly field: string;
}

/** Where a kind's records are: inside others, between two others, or on their own. */
export function roleOf(kind: ShapeKind): "link" | "nested" | "own" {
  const targets = new Set(referencesOf(kind).map((relation) => relation.to));
  if (targets.size >= 2 || (targets.size === 1 && kind.inside !== null && !targets.has(kind.inside) && kind.fields.length <= 4))
    return "link";
  return kind.inside === null ? "own" : "nested";
}

/** The field that people most likely know a record by. */
function keyOf(kind: ShapeKind): ShapeField | undefined {
  const could = kind.fields.filter((field) => field.couldBeKey && field.couldRefer.length === 0);
  return could.find((field) => field.form === "name" || looksLikeId(field.path)) ?? could.find((field) => /^name$/i.test(field.path));
}

/** One arrow for a field, to the kind it most likely refers to. */
function referencesOf(kind: ShapeKind): Relation[] {
  return kind.fields.flatMap((field) => {
    const [first] = field.couldRefer.filter((one) => one.kind !== kind.name);
    return first === undefined || field.couldBeKey ? [] : [{ from: kind.name, to: first.kind, field: field.path }];
  });
}

/**
 * The diagram as text: Mermaid's `erDiagram`.
 *
 * @example
 * ```ts
 * const shape = await survey('{"people": [{"id": "P-1", "name": "Rut"}, {"id": "P-2", "name": "Nils"}]}');
 * mermaidDiagram(shape).startsWith("erDiagram"); // true
 * ```
 */
export function mermaidDiagram(shape: Shape): string {
  const lines = ["erDiagram", `  %% ${MADE_BY}`];
  for (const kind of shape.kinds) {
    if (kind.inside !== null) lines.push(`  ${quoted(kind.inside)} ||--o{ ${quoted(kind.name)} : holds`);
    for (const { to, field } of referencesOf(kind)) lines.push(`  ${quoted(to)} ||..o{ ${quoted(kind.name)} : ${quoted(field)}`);
  }
  for (const kind of shape.kinds) {
    lines.push(`  ${quoted(kind.name)}${roleOf(kind) === "link" ? ":::link" : ""} {`);
    for (const field of kind.fields)
      lines.push(
        `    ${typeOf(field)} ${attribute(field.path)}${field === keyOf(kind) ? " PK" : field.couldRefer.length > 0 ? " FK" : ""}`,
      );
    lines.push("  }");
  }
  lines.push("  classDef link fill:#fdf0d5,stroke:#b7791f");
  return `${lines.join("\n")}\n`;
}

function quoted(name: string): string {
  return `"${visible(name).replaceAll('"', "'")}"`;
}

/** Names of attributes begin with a letter and hold letters, digits and `_`. */
function attribute(path: string): string {
  if (path === ".") return "value";
  const word = path.replace(/[^\p{L}\p{N}_]+/gu, "_").replace(/^_+|_+$/g, "");
  return /^\p{L}/u.test(word) ? word : `f_${word}`;
}

function typeOf(field: ShapeField): string {
  if (field.form === "name") return "name";
  const [type = "text", ...others] = Object.keys(field.types).filter((one) => one !== "null");
  return others.length > 0 ? "mixed" : type === "true/false" ? "truth" : type;
}

// ---- the same as a picture

const MOST_FIELDS = 14;
const LINE = 18;
const HEAD = 26;
const CHAR = 7.2;
const GAP_X = 96;
const GAP_Y = 26;
const MARGIN = 24;

interface Box {
  readonly kind: ShapeKind;
  readonly lines: readonly (readonly [name: string, type: string, mark: string])[];
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

const FILLS = { own: "#dbe7f3", nested: "#e4efe2", link: "#fdf0d5" } as const;
const STROKES = { own: "#3b6290", nested: "#4c7a46", link: "#b7791f" } as const;
const MEANINGS = { own: "records on their own", nested: "records inside others", link: "records between others" } as const;

/** The diagram as a picture of its own (SVG 1.1): no scripts, no fonts to load. */
export function svgDiagram(shape: Shape): string {
  const boxes = placeBoxes(shape.kinds);
  const byName = new Map(boxes.map((box) => [box.kind.name, box]));
  const arrows: string[] = [];
  for (const box of boxes) {
    const { inside } = box.kind;
    const around = inside === null ? undefined : byName.get(inside);
    if (around !== undefined) arrows.push(nestingLine(around, box));
    for (const { to, field } of referencesOf(box.kind)) {
      const target = byName.get(to);
      if (target !== undefined) arrows.push(referenceLine(box, field, target));
    }
  }
  const roles = (["own", "nested", "link"] as const).filter((role) => boxes.some(({ kind }) => roleOf(kind) === role));
  const width = Math.max(880, largest(boxes.map((box) => box.x + box.width))) + MARGIN + 40;
  const bottom = Math.max(0, largest(boxes.map((box) => box.y + box.height))) + GAP_Y;
  const legend = roles.map((role, i) => {
    const x = MARGIN + 200 * i;
    return `<rect x="${x}" y="${bottom}" width="14" height="14" fill="${FILLS[role]}" stroke="${STROKES[role]}"/><text x="${x + 22}" y="${bottom + 12}">${MEANINGS[role]}</text>`;
  });
  const last = MARGIN + 200 * roles.length;
  const line = bottom + 7;
  legend.push(
    `<path d="M${last} ${line}h34" stroke="#52606d" stroke-width="1.4" marker-end="url(#many)"/><text x="${last + 44}" y="${bottom + 12}">holds</text>`,
    `<path d="M${last + 104} ${line}h34" stroke="#b7791f" stroke-dasharray="5 4" marker-end="url(#many)"/><text x="${last + 148}" y="${bottom + 12}">is referred to by</text>`,
  );
  const height = bottom + 14 + MARGIN;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" font-family="ui-sans-serif, system-ui, sans-serif" font-size="12" fill="#1f2933">
<!-- ${MADE_BY} -->
<rect width="${width}" height="${height}" fill="#ffffff"/>
<defs><marker id="many" viewBox="0 0 12 12" refX="11" refY="6" markerWidth="11" markerHeight="11" orient="auto-start-reverse"><path d="M0 6L11 1M0 6L11 11M0 6L11 6" fill="none" stroke="#52606d"/></marker></defs>
${arrows.join("\n")}
${boxes.map(drawBox).join("\n")}
${legend.join("\n")}
</svg>
`;
}

/** Kinds stand in columns, each to the right of the kind around it; links stand to the right of all. */
function placeBoxes(kinds: readonly ShapeKind[]): Box[] {
  const depths = new Map<string, number>();
  const depthOf = (kind: ShapeKind): number => {
    const around = kinds.find((one) => one.name === kind.inside);
    return around === undefined ? 0 : depthOf(around) + 1;
  };
  const deepest = Math.max(0, largest(kinds.map(depthOf)));
  for (const kind of kinds) depths.set(kind.name, roleOf(kind) === "link" && kind.inside === null ? Math.min(deepest, 1) : depthOf(kind));
  const boxes: Box[] = [];
  let x = MARGIN;
  for (let depth = 0; depth <= deepest; depth++) {
    const column = kinds.filter((kind) => depths.get(kind.name) === depth);
    const lines = column.map(linesOf);
    const width = Math.max(
      120,
      largest(
        column.map(
          (kind, i) =>
            CHAR *
            Math.max(headOf(kind).length + 2, largest(lines[i].map(([name, type, mark]) => name.length + type.length + mark.length + 5))),
        ),
      ),
    );
    let y = MARGIN;
    column.forEach((kind, i) => {
      const height = HEAD + LINE * lines[i].length + 8;
      boxes.push({ kind, lines: lines[i], x, y, width, height });
      y += height + GAP_Y;
    });
    x += width + GAP_X;
  }
  return boxes;
}

function shownName({ path, form }: ShapeField): string {
  return path === "." ? "value" : form === "name" ? "name" : path;
}

function headOf(kind: ShapeKind): string {
  return `${kind.name}   ${kind.count.toLocaleString("en")}`;
}

function linesOf(kind: ShapeKind): [string, string, string][] {
  const shown = kind.fields
    .slice(0, MOST_FIELDS)
    .map((field): [string, string, string] => [shownName(field), typeOf(field), field === keyOf(kind) ? "key" : ""]);
  const more = kind.fields.length - shown.length;
  return more > 0 ? [...shown, [`… ${more} more`, "", ""]] : shown;
}

function drawBox({ kind, lines, x, y, width, height }: Box): string {
  const role = roleOf(kind);
  const rows = lines.map(([name, type, mark], i) => {
    const at = y + HEAD + LINE * i + 14;
    const key = mark === "" ? "" : ` font-weight="600"`;
    return `<text x="${x + 10}" y="${at}"${key}>${escaped(name)}</text><text x="${x + width - 10}" y="${at}" text-anchor="end" fill="#7b8794">${escaped(mark === "" ? type : `${type}, ${mark}`)}</text>`;
  });
  return `<g><rect x="${x}" y="${y}" width="${width}" height="${height}" rx="5" fill="#ffffff" stroke="${STROKES[role]}"/><path d="M${x} ${y + HEAD}h${width}v-${HEAD - 5}a5 5 0 0 0 -5 -5h-${width - 10}a5 5 0 0 0 -5 5z" fill="${FILLS[role]}" stroke="${STROKES[role]}"/><text x="${x + 10}" y="${y + 17}" font-weight="600">${escaped(kind.name)}</text><text x="${x + width - 10}" y="${y + 17}" text-anchor="end" fill="#52606d">${kind.count.toLocaleString("en")}</text>
${rows.join("\n")}</g>`;
}

function nestingLine(around: Box, box: Box): string {
  const [x1, y1, x2, y2] = [around.x + around.width, around.y + HEAD / 2, box.x, box.y + HEAD / 2];
  const middle = (x1 + x2) / 2;
  return `<path d="M${x1} ${y1}C${middle} ${y1} ${middle} ${y2} ${x2} ${y2}" fill="none" stroke="#52606d" stroke-width="1.4" marker-end="url(#many)"/>`;
}

/** From the field to the head of the kind it refers to, out of the nearer side. */
function referenceLine(box: Box, field: string, target: Box): string {
  const row = box.kind.fields.slice(0, MOST_FIELDS).findIndex(({ path }) => path === field);
  const y1 = box.y + (row < 0 ? HEAD / 2 : HEAD + LINE * row + 10);
  const y2 = target.y + HEAD / 2;
  const same = Math.abs(box.x - target.x) < 1;
  const right = same || target.x > box.x;
  const x1 = right ? box.x + box.width : box.x;
  const x2 = same ? target.x + target.width : right ? target.x : target.x + target.width;
  const bend = same ? 46 : GAP_X / 2;
  const [c1, c2] = [right ? x1 + bend : x1 - bend, same || !right ? x2 + bend : x2 - bend];
  return `<path d="M${x1} ${y1}C${c1} ${y1} ${c2} ${y2} ${x2} ${y2}" fill="none" stroke="#b7791f" stroke-dasharray="5 4" marker-start="url(#many)"><title>${escaped(`${box.kind.name}: ${field}`)}</title></path>`;
}

/** Well formed whatever a name is made of. */
function escaped(text: string): string {
  const shown = visible(text).replace(NOT_XML, "\ufffd");
  return shown.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll('"', "&quot;");
}

/** Characters that XML 1.0 cannot hold and that are no controls. */
const NOT_XML = /[\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;
