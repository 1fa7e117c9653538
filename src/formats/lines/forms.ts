/** How values of fields that are not in columns stand in a file, and in cells: dates by a picture, numbers with a comma. */
import type { SpellFault } from "../format.js";
import { compilePicture, readDate, writeDate, type DatePicture } from "./dates.js";
import type { FormInput } from "./form-settings.js";
import { readNumber, writeNumber, type NumberForm } from "./numbers.js";

export interface ValueForm {
  readonly date: DatePicture | null;
  readonly number: NumberForm | null;
}

/** `null` where a value is a text as it stands. */
export function compileForm(name: string, input: FormInput): ValueForm | null {
  const { date, pivot, decimal, group, sign, plus = sign === "leading" } = input;
  const isNumber = decimal !== undefined || group !== undefined || sign !== undefined;
  if (date === undefined && !isNumber) return null;
  return {
    date: date === undefined ? null : compilePicture(name, date, pivot),
    number: isNumber ? { decimals: null, point: decimal ?? ".", group: group ?? null, sign: sign ?? null, plus } : null,
  };
}

/** What stands there, as a cell says it; what is not of the form as it is. */
export function readValue(raw: string, { date, number }: ValueForm): string {
  return (date !== null ? readDate(raw, date) : number !== null ? readNumber(raw, number) : null) ?? raw;
}

/** The text as it is to stand there, or why it cannot; a text that is not of the form may stay as it was. */
export function writeValue(name: string, text: string, { date, number }: ValueForm, old: string | null): string | SpellFault {
  if (text === "" || text === old) return text;
  if (date !== null) return dateOrFault(name, text, date);
  const written = number === null ? text : writeNumber(text, number, old);
  return written ?? { code: "number-form", facts: { name } };
}

export function dateOrFault(name: string, text: string, date: DatePicture): string | SpellFault {
  const written = writeDate(text, date);
  if (written === null) return { code: "fixed-date", facts: { name, picture: date.picture, ofMonth: date.ofMonth } };
  if (written === "") return { code: "date-year", facts: { name, picture: date.picture, pivot: date.pivot } };
  return written;
}
