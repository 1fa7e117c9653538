/** Days as people and spreadsheets write them. */

const DAY = 86_400_000;
/** Day 0 of spreadsheets: most count from here, some from 1904. */
const FIRST_DAYS = [Date.UTC(1899, 11, 30), Date.UTC(1904, 0, 1)];
/** Beginnings of the names of months: English, German, French, Spanish, Dutch, Nordic. */
const MONTHS = [
  ["jan", "jän", "ene"],
  ["feb", "fév", "fev"],
  ["mar", "mär", "mrz", "maa"],
  ["apr", "avr", "abr"],
  ["may", "mai", "mei", "maj"],
  ["jun", "juin"],
  ["jul", "juil"],
  ["aug", "aoû", "aou", "ago"],
  ["sep"],
  ["oct", "okt"],
  ["nov"],
  ["dec", "dez", "déc", "des", "dic"],
];

/** Which comes first where both are numbers; `null` where there is no doubt. */
export type DateOrder = "day" | "month" | null;

/** How a sheet writes dates and decimals, as far as its damaged cells tell. */
export interface Habits {
  readonly order: DateOrder;
  readonly comma: boolean;
}

/** A reading of a text as a day. */
export interface ReadDate {
  /** `2024-03-05` */
  readonly date: string;
  readonly order: DateOrder;
}

export function isDate(text: string): boolean {
  const match = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text);
  return match !== null && dateOf(Number(match[1]), Number(match[2]), Number(match[3])) === text;
}

/** The numbers by which spreadsheets know a day. */
export function daysFrom(date: string): number[] {
  return FIRST_DAYS.map((first) => (Date.parse(`${date}T00:00:00Z`) - first) / DAY);
}

/** All that a text may mean: `05/03/2024`, `3/5/24`, `5.3.2024`, `5-Mar-24`, `5. März 2024`, `2024/3/5`; without a year that of 2000. */
export function datesIn(text: string): ReadDate[] {
  const parts = /^(?:(\d{1,4})(?:[./-]\s?|\s)(\d{1,2}|\p{L}{3,10}\.?)(?:(?:[./-]\s?|\s)(\d{1,4}))?)$/u.exec(text);
  if (parts === null) {
    // Mar-24, Mar 5, 2024
    const named = /^(\p{L}{3,10})\.?[ -](\d{1,2})(?:,? (\d{4}))?$/u.exec(text);
    const month = named === null ? 0 : monthOf(named[1]);
    return month === 0 ? [] : readings([[named![3] ?? "2000", month, Number(named![2]), null]]);
  }
  const [, a, b, c = "2000"] = parts;
  const month = monthOf(b);
  if (month > 0) return readings([[c, month, Number(a), null]]);
  if (a.length > 2) return readings([[a, Number(b), Number(c), null]]);
  const [first, second] = [Number(a), Number(b)];
  const isSure = first === second || first > 12 || second > 12;
  // with points between them the day comes first everywhere
  if (/^\d+\./.test(text)) return readings([[c, second, first, null]]);
  return readings([
    [c, second, first, isSure ? null : "day"],
    [c, first, second, isSure ? null : "month"],
  ]);
}

function monthOf(name: string): number {
  const lower = name.toLowerCase();
  return MONTHS.findIndex((names) => names.some((one) => lower.startsWith(one))) + 1;
}

function readings(all: readonly (readonly [year: string, month: number, day: number, order: DateOrder])[]): ReadDate[] {
  return all.flatMap(([year, month, day, order]) => {
    // two digits are of the hundred years around now, as spreadsheets take them
    const years = year.length > 2 ? [Number(year)] : [1900 + Number(year), 2000 + Number(year)];
    return years.flatMap((one) => {
      const date = dateOf(one, month, day);
      return date === null ? [] : [{ date, order }];
    });
  });
}

function dateOf(year: number, month: number, day: number): string | null {
  const time = new Date(Date.UTC(2000, month - 1, day));
  time.setUTCFullYear(year, month - 1, day);
  const isReal = time.getUTCMonth() === month - 1 && time.getUTCDate() === day && month > 0;
  return isReal ? `${String(year).padStart(4, "0")}-${String(month).padStart(2, "0")}-${String(day).padStart(2, "0")}` : null;
}
