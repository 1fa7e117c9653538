/** Values as expressions see them: as the source keeps them, numbers and truths as the column's type says. */
import { readCell } from "../cells/spelling.js";
import { Kind } from "../model/kind.js";
import type { ColumnPlan } from "../model/plan.js";
import type { Scalar } from "./expression-result.js";

/** `text` is the value's text, decoded. */
export function valueFor(column: Pick<ColumnPlan, "type">, kind: Kind, text: () => string): Scalar {
  switch (kind) {
    case Kind.Absent:
    case Kind.Null:
      return null;
    case Kind.True:
      return true;
    case Kind.False:
      return false;
    case Kind.Number:
      return numberFor(column, text());
    default:
      return typed(column, text());
  }
}

/** The same from a cell of a sheet; one that shows what stands above has a value, though its record has none. */
export function shownValue(column: ColumnPlan, kind: Kind, cell: string): Scalar {
  const isFilled = kind === Kind.Absent && column.fillDown === true && cell !== "";
  return valueFor(column, isFilled ? Kind.Text : kind, () => {
    const read = readCell(cell, column.blank);
    if (read?.kind !== "text") return cell;
    const code = read.literal ? undefined : [...(column.choices ?? [])].find(([, word]) => word === read.text)?.[0];
    return code ?? read.text;
  });
}

/** Formats without numbers hold texts: the type of the column says what they are. */
function typed(column: Pick<ColumnPlan, "type">, text: string): Scalar {
  switch (column.type) {
    case "number":
    case "integer":
    case "decimal": {
      const trimmed = text.trim();
      return trimmed === "" ? null : Number.isFinite(Number(trimmed)) ? numberFor(column, trimmed) : text;
    }
    case "boolean":
      return text === "true" ? true : text === "false" ? false : text;
    default:
      return text;
  }
}

function numberFor({ type }: Pick<ColumnPlan, "type">, text: string): number | bigint {
  return type === "integer" && /^[+-]?\d+$/.test(text) ? BigInt(text) : Number(text);
}
