/** Documents made of lines, as people and programs really write them. */
import fc from "fast-check";
import { Random } from "./random.js";

const WORDS = [
  "Skarv",
  "Ytre Skarv",
  "Nordlys",
  "Ærø",
  "漢字",
  "rope, hemp",
  "x",
  "",
  "=1+2",
  "+47 123",
  "(null)",
  "[]",
  "it's",
  " lead",
  "trail ",
  "A-1",
  "1E5",
];

/** Delimited text with notes above, quotes here and there, short and blank lines, mixed line ends. */
export const delimitedDocs: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const delimiter = random.pick([",", ";", "\t", "|"]);
  const line = random.pick(["\n", "\r\n", "\r"]);
  const quote = (text: string): string => {
    const needs = text.includes(delimiter) || /["\r\n]/.test(text);
    return needs || random.chance(6) ? `"${text.replaceAll('"', '""')}"` : text;
  };
  const columns = random.shuffle(["code", "name", "range", "since", "note", "seen by"]).slice(0, 2 + random.next(5));
  let serial = 0;
  const value = (column: string): string => {
    switch (column) {
      case "code":
        return `00${++serial}`;
      case "range":
        return random.pick(["12.50", "7", "-1", ""]);
      case "since":
        return random.pick(["2024-03-05", "1999-12-31", ""]);
      case "note":
        return random.pick([...WORDS, 'say "yes"', "two\nlines", `a${delimiter}b`, "a\r\nb"]);
      default:
        return random.pick(WORDS.filter((word) => !word.startsWith(" ")));
    }
  };
  const rows = Array.from({ length: 1 + random.next(8) }, () => {
    const cells = columns.map((column) => quote(value(column)));
    if (random.chance(8) && cells.length > 2) cells.pop();
    return cells.join(delimiter);
  }).filter((row) => row.trim() !== "" && !row.startsWith("#"));
  const blanks = (row: string): string => (random.chance(10) ? `${row}${line}` : row);
  const notes = random.chance(4) ? ["# made by hand", "# twice a year"] : [];
  return (
    random.pick(["", "", "\ufeff"]) +
    [...notes, columns.map(quote).join(delimiter), ...rows.map(blanks)].join(line) +
    random.pick(["", line])
  );
});

/** Lines with tags and a delimiter: orders, their tasks, and now and then an end. */
export const taggedDocs: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const delimiter = random.pick(["|", ";", "\t", "^"]);
  const line = random.pick(["\n", "\r\n"]);
  const trailers = random.chance(2);
  const words = WORDS.filter((word) => word.trim() === word && !word.includes(",") && !word.includes(delimiter));
  const word = (): string => random.pick(words);
  const lines: string[] = [];
  for (let order = 1; order <= 2 + random.next(3); order++) {
    lines.push(["ORD", `W-${order}`, word(), random.pick(["2026-11-01", "2026-12-24"])].join(delimiter));
    if (random.chance(5)) lines.push("", random.pick(["# a remark", ""]));
    const tasks = 1 + random.next(4);
    for (let task = 1; task <= tasks; task++)
      lines.push(["TSK", String(task), word(), random.pick(["4", "1.50"])].slice(0, random.chance(8) ? 3 : 4).join(delimiter));
    if (trailers) lines.push(["END", String(tasks)].join(delimiter));
  }
  return lines.join(line) + random.pick(["", line]);
});

/** A stores ledger by columns: batches, stations, items, and lines that close them. */
export const fixedDocs: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const line = random.pick(["\n", "\r\n"]);
  const width = random.pick([0, 60]);
  const lines: string[] = [];
  const put = (text: string): void => void lines.push(width === 0 ? text.trimEnd() : text.padEnd(width));
  for (let batch = 1; batch <= 1 + random.next(2); batch++) {
    put(`01${String(batch).padStart(6, "0")}20261103${random.pick(["NORTHERN STORES", "Ærø STORES", "S"]).padEnd(24)}`);
    const stations = 1 + random.next(3);
    for (let s = 1; s <= stations; s++) {
      put(`02S-${String(batch * 10 + s).padStart(3, "0")}  ${random.pick(["SKARVOY DEPOT", "YTRE SKARV", "PERLE"]).padEnd(24)}`);
      const items = 1 + random.next(4);
      for (let i = 1; i <= items; i++) {
        put(
          `03${random.pick(["LAMP", "ROPE", "WICK"])}-${i}    ${random.pick(["OIL LAMP", "ROPE HEMP", "COTTON", ""]).padEnd(26)}  ${String(random.next(900)).padStart(6)}  ${String(random.next(90000)).padStart(8, "0")}`,
        );
      }
      put(`08${String(items).padStart(6, "0")}`);
    }
    put(`09${String(stations).padStart(6, "0")}`);
  }
  return lines.join(line) + random.pick(["", line]);
});

/** Contact cards and settings: names and values, folded lines, names that come again, headings. */
export const blockDocs: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const line = random.pick(["\n", "\r\n"]);
  const sections = random.chance(2);
  const pair = sections ? "=" : ": ";
  const words = WORDS.filter((word) => word.trim() === word && word !== "" && !word.startsWith("["));
  const card = (n: number): string => {
    const lines = sections ? [`[card ${n}]`] : [`Name${pair}P-${n}`];
    for (const name of random.shuffle(["Station", "Telephone", "Since", "Note"]).slice(0, 1 + random.next(4))) {
      const value = random.chance(6) ? "" : name === "Since" ? "2024-03-05" : random.pick(words);
      lines.push(`${name}${value === "" ? pair.trimEnd() : pair}${value}`);
      if (name === "Note" && value !== "" && random.chance(2)) lines.push("  folded once", "\tfolded again");
      if (name === "Telephone" && random.chance(3)) lines.push(`Telephone${pair}0${n}`);
    }
    if (random.chance(6)) lines.splice(1, 0, "# a remark");
    return lines.join(line);
  };
  const cards = Array.from({ length: 1 + random.next(5) }, (_, i) => card(i + 1));
  return cards.join(random.pick([line + line, line + line + line])) + random.pick(["", line, line + line]);
});

/** Any lines at all. */
export const anyLines: fc.Arbitrary<string> = fc
  .oneof(
    fc.array(fc.string({ maxLength: 30 }), { minLength: 1, maxLength: 12 }).map((lines) => `x${lines.join("\n")}`),
    fc
      .array(fc.constantFrom(...WORDS, "A b", "01 x", "a: b", "  deeper", "# note", "a,b,c", "x|y"), { minLength: 1, maxLength: 14 })
      .map((lines) => lines.join("\r\n")),
  )
  // what begins like JSON or XML is taken for it
  .filter((text) => /^[^[{<\s]/.test(text));

/** Segments without those that count others: separators of three kinds, one line or a line each, texts with signs of the file, segments that lack. */
export const segmentDocs: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const { end, delimiter, parts, release } = random.pick([
    { end: "'", delimiter: "+", parts: ":", release: "?" },
    { end: "~", delimiter: "*", parts: ">", release: "!" },
    { end: "'", delimiter: "|", parts: ";", release: "?" },
  ]);
  const line = random.pick(["", "\n", "\r\n"]);
  const text = (value: string): string =>
    [...value].map((sign) => ([end, delimiter, parts, release].includes(sign) ? release + sign : sign)).join("");
  const word = (): string => text(random.pick([...WORDS.filter((one) => one.trim() === one), "it's 3+4: ok?", "a*b~c|d;e>f!"]));
  const segment = (...fields: (string | string[])[]): string =>
    fields.map((field) => (Array.isArray(field) ? field.join(parts) : field)).join(delimiter) + end + line;
  const messages = Array.from({ length: 1 + random.next(3) }, (_, m) => {
    const lines = Array.from({ length: random.next(4) }, (__, l) => [
      segment("LIN", String(l + 1), "", [word(), "SA"]),
      ...(random.chance(2) ? [segment("QTY", ["145", String(random.next(900)), "PCE"])] : []),
    ]).flat();
    return [segment("MSG", `M${m + 1}`, ["STOCKS", "D"]), ...lines].join("");
  });
  const una = `UNA${parts}${delimiter}.${release} ${end}${line}`;
  return una + segment("TOP", ["UNOC", "3"], "A", "B", "261103", "R1") + messages.join("") + segment("BOT", word());
});

/** Contacts: properties that lack and that come again, parameters, folds, escapes, groups. */
export const contentDocs: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const line = random.pick(["\r\n", "\n"]);
  const escaped = (value: string): string => value.replace(/[\\,;]/g, (sign) => `\\${sign}`).replace(/\n/g, "\\n");
  const word = (): string => random.pick(WORDS.filter((one) => one.trim() === one && one !== ""));
  const fold = (value: string): string =>
    random.chance(3) && value.length > 16 ? `${value.slice(0, 14)}${line} ${value.slice(14)}` : value;
  const cards = Array.from({ length: 1 + random.next(4) }, () => [
    "BEGIN:VCARD",
    "VERSION:3.0",
    fold(`FN:${escaped(`${word()}, ${word()}`)}`),
    ...Array.from({ length: random.next(3) }, () => `TEL;TYPE=${random.pick(["home", "work", '"a:b"'])}:+47 ${random.next(99)}`),
    ...(random.chance(2) ? [fold(`${random.pick(["", "item1."])}NOTE:${escaped(`${word()} and ${word()};\n${word()}`)}`)] : []),
    "END:VCARD",
  ]);
  return cards.map((card) => card.join(line)).join(line) + random.pick(["", line]);
});

/** Stations, each in one line with up to three lamps: by columns, or by what stands between cells. */
export const groupDocs = (delimiter: string | null): fc.Arbitrary<string> =>
  fc.nat().map((seed) => {
    const random = new Random(seed);
    const line = random.pick(["\n", "\r\n"]);
    const lines: string[] = [];
    const codes = random.shuffle([...Array(900).keys()]).slice(0, 1 + random.next(4));
    for (const code of codes) {
      const lamps = Array.from({ length: 3 }, () =>
        random.chance(3) ? ["", "", ""] : [random.pick(["MAIN", "FOG", ""]), random.pick(["30", "1200", ""]), random.pick(["a", "b", ""])],
      );
      const cells = [`S${100 + code}`, random.pick(["Skarv", "Ærø", ""]), ...lamps.flat(), random.pick(["x", "end", ""])];
      if (delimiter !== null) lines.push(cells.slice(0, lines.length > 0 && random.chance(4) ? 2 + random.next(9) : 12).join(delimiter));
      else {
        const widths = [4, 8, 5, 4, 1, 5, 4, 1, 5, 4, 1, 3];
        const whole = cells.map((cell, c) => (/^\d/.test(cell) ? cell.padStart(widths[c]) : cell.padEnd(widths[c]))).join("");
        lines.push(random.chance(4) ? whole.trimEnd() : whole);
      }
    }
    return lines.join(line) + random.pick(["", line]);
  });
