/** Damage to dates and times, and to codes that are taken for dates. */
import { datesIn, daysFrom, isDate } from "../dates.js";
import { sure, shapeOf, type Rule } from "./damage.js";

const TIME = /^(\d{1,2}):(\d{1,2})(?::(\d\d)(?:[.,]0+)?)?(?:\s?([AaPp])\.?[Mm]\.?)?$/;

/** Of a time of the day, or a length of time; -1 where it is none. */
function seconds(text: string): number {
  const match = TIME.exec(text);
  if (match === null) return -1;
  const [, hour, minute, second = "0", half] = match;
  const hours = half === undefined ? Number(hour) : (Number(hour) % 12) + (/p/i.test(half) ? 12 : 0);
  return 3600 * hours + 60 * Number(minute) + Number(second);
}

/** `9:30` → `09:30:00`, `9:30 AM`; `2024-03-05 9:30` → `05/03/2024 09:30:00`. */
const times: Rule = (was, found) => {
  const [day, time] = dayAndTime(was);
  const [otherDay, otherTime] = dayAndTime(found);
  const isSameDay = day === otherDay || datesIn(day).some(({ date }) => datesIn(otherDay).some((other) => other.date === date));
  const is = seconds(time) >= 0 && seconds(time) === seconds(otherTime) && isSameDay;
  return is ? { why: "time written another way", hits: (one) => seconds(dayAndTime(one)[1]) >= 0 } : null;
};

function dayAndTime(text: string): readonly [day: string, time: string] {
  const time = /(?:^|[ T])(\d{1,2}:\d{1,2}(?::.*)?|\d{1,2}:\d{1,2} ?[AaPp]\.?[Mm]\.?)$/.exec(text);
  return time === null ? [text, ""] : [text.slice(0, time.index), time[1]];
}

/** Without the midnight that programs put behind a day. */
function dayOnly(text: string): string {
  return text.replace(/[ T]0?0:00(?::00(?:\.0+)?)?$/, "");
}

/** `2024-03-05` → `05/03/2024`, `3/5/24`, `5.3.2024`, `5-Mar-24`, and `45356`, the number of the day. */
const dates: Rule = (was, found) => {
  if (!isDate(was)) return null;
  if (/^\d{1,7}$/.test(found)) return sure(daysFrom(was).includes(Number(found)), "date as the number of its day");
  return sure(
    datesIn(dayOnly(found)).some(({ date }) => date === was),
    "date written another way",
  );
};

/** `05/03/2024` → `03/05/2024`, `5. März 2024` → `05/03/2024`, `1.2.3` → `01/02/2003`: a date, or what looks like one, in another form. */
const redated: Rule = (was, found) => {
  if (isDate(was)) return null;
  const [some, others] = [wholeDates(was), wholeDates(dayOnly(found))];
  if (!some.some((one) => others.includes(one))) return null;
  // programs that read days first do not know 12/31, and the other way round
  const form = dateForm(was);
  const hits = (one: string): boolean => dateForm(one) === form;
  const why = "date in another form";
  // people swap day and month
  return shapeOf(was) === shapeOf(found) ? { why, hits, form, isLikelyMeant: true } : { why, hits, form };
};

/** How a date is formed, and what of it is sure. */
function dateForm(text: string): string {
  const [first = 0] = (text.match(/\d+/g) ?? []).map(Number);
  const isOpen = datesIn(text).some(({ order }) => order !== null);
  const form = text.replace(/\d+/g, (run) => (run.length > 2 ? "9999" : "9"));
  return `${shapeOf(form)} ${form.startsWith("9999")} ${isOpen ? "" : first > 12 ? "day" : "month"}`;
}

/** Days that a text may mean which says the year, or the month at least. */
function wholeDates(text: string): readonly string[] {
  const inMonth = /^(?:(\d{1,2})[./-](\d{4})|(\d{4})[./-](\d{1,2}))$/.exec(text);
  if (inMonth !== null) return datesIn(`${inMonth[2] ?? inMonth[3]}-${inMonth[1] ?? inMonth[4]}-1`).map(({ date }) => date);
  const named = /^(\p{L}{3,10})\.?[ -](\d{2}|\d{4})$/u.exec(text);
  if (named !== null) return datesIn(`1-${named[1]}-${named[2]}`).map(({ date }) => date);
  return /\d.*\D.*\d/.test(text) && /^\D*\d+\D+\d+$/.test(text) && !/\d{4}/.test(text) ? [] : datesIn(text).map(({ date }) => date);
}

/** `3/4`, `1-2`, `MAR1` → a day of some year. */
const codes: Rule = (was, found) => {
  const numbered = /^(\d{1,2})[-/.](\d{1,2})$/.exec(was);
  const named = /^(\p{L}{3,4})[- .]?(\d{1,2})$/u.exec(was);
  // what is shown of a day is its year, or its month by name behind it
  if ((numbered === null && named === null) || /^\d+\D\d+\D?$/.test(found) || (numbered !== null && /^\p{L}/u.test(found))) return null;
  const days = numbered === null ? datesIn(`${named![2]}-${named![1]}`).map(({ date }) => date.slice(5)) : [];
  // the number may be taken for the year
  const inYear = numbered === null ? datesIn(`1-${named![1]}-${named![2].padStart(2, "0")}`).map(({ date }) => date) : [];
  const [a, b] = numbered === null ? ["", ""] : [numbered[1].padStart(2, "0"), numbered[2].padStart(2, "0")];
  const dates = datesIn(dayOnly(found)).map(({ date }) => date);
  const isOne = (date: string): boolean => {
    const day = date.slice(5);
    return day === `${a}-${b}` || day === `${b}-${a}` || days.includes(day) || inYear.includes(date);
  };
  const meant = dates.filter(isOne);
  if (meant.length === 0) return null;
  const hits = (one: string): boolean => shapeOf(one) === shapeOf(was);
  if (inYear.some((date) => dates.includes(date))) return { why: "code turned into a month", hits, form: shapeOf(was) };
  const years = yearsIn(found, meant).filter((year) => year === "" || year >= FIRST_YEAR);
  if (years.length === 0) return null;
  const looks = years.map((year) => `${shapeOf(found)} ${year}`);
  return { why: "code turned into a date", hits, form: shapeOf(was), looks };
};

/** The year that a program puts to a day is that in which it runs: no tables are older than this. */
const FIRST_YEAR = "2025";

/** Years of days, where the text says one. */
function yearsIn(text: string, dates: readonly string[]): readonly string[] {
  const years = dates.map((date) => date.slice(0, 4));
  return years.every((year) => year === "2000") && !/2000|\D00$/.test(text) ? [""] : years;
}

export const DATE_RULES: readonly Rule[] = [times, dates, codes, redated];
