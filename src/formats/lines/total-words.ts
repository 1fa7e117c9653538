/** What a plan says of totals, and which records count. */
import { PlanError } from "../../errors/error.js";
import { CHECK_DIGITS, type CheckDigit } from "./check-digits.js";
import type { Term, Total } from "./grammar.js";
import type { TotalInput } from "./form-settings.js";

/** Field names of a kind of this layout, or `null` when there is no such kind. */
type FieldsOf = (kind: string) => readonly string[] | null;

const STANDARDS = Object.keys(CHECK_DIGITS).join("|");

/**
 * Reads `count KIND`, `sum KIND/FIELD` and `count lines`, several with + or - between them; `number` and `line`; or a check
 * digit by its standard, with the field that it is of.
 *
 * @throws {@link PlanError} for what is none of these, or names what this layout has not
 */
export function parseTotal(field: string, input: TotalInput | undefined, own: readonly string[], fieldsOf: FieldsOf): Total | undefined {
  if (input === undefined) return undefined;
  const { of, when = {}, modulo = null, per = null } = typeof input === "string" ? { of: input } : input;
  const wrong = (): never => {
    throw new PlanError("layout-total", { field, total: of });
  };
  const total = { terms: [], modulo, per };
  if (of === "number" || of === "line") return { ...total, number: of };
  const copied = /^copy ([^/]+)\/(.+)$/.exec(of);
  if (copied !== null)
    return fieldsOf(copied[1])?.includes(copied[2]) === true ? { ...total, copy: { kind: copied[1], field: copied[2] } } : wrong();
  const digit = new RegExp(`^(${STANDARDS}) (.+)$`).exec(of);
  if (digit !== null) return own.includes(digit[2]) ? { ...total, digit: { of: digit[2], by: digit[1] as CheckDigit } } : wrong();
  const conditions = Object.entries(when).map(([name, values]) => ({ field: name, values: [values].flat() }));
  const terms = of.split(/ (?=[+-] )/).map((word, i): Term => {
    const match = /^(?:([+-]) )?(?:count ([^/]+)|sum ([^/]+)\/(.+))$/.exec(word);
    if (match === null || (match[1] !== undefined) !== i > 0) return wrong();
    const [, sign, counted, summed, of] = match;
    if (counted === "lines" && fieldsOf("lines") === null) {
      if (conditions.length > 0) wrong();
      return { minus: sign === "-", kind: null, field: null, when: [] };
    }
    const kind = counted ?? summed;
    const fields = fieldsOf(kind);
    if (
      fields === null ||
      [...(of === undefined ? [] : [of]), ...conditions.map((one) => one.field)].some((name) => !fields.includes(name))
    )
      wrong();
    return { minus: sign === "-", kind, field: of ?? null, when: conditions };
  });
  return { ...total, terms };
}
