/** Contacts and calendars: folded lines, parameters, components in others, texts with escapes. */
import { describe, expect, test } from "vitest";
import { compare, draft, fold, hatch, survey } from "hatch-fold";
import { ACTION, editCells, readRows, text, type CellEdits } from "../support/sheets.js";

const lines = (...all: string[]): string => all.map((line) => `${line}\r\n`).join("");
const ANE = [
  "BEGIN:VCARD",
  "VERSION:3.0",
  "N:Lind;Ane;;;",
  "FN:Ane Lind\\, keeper",
  "TEL;TYPE=home:+47 1",
  "TEL;TYPE=work;PREF=1:+47 2",
  "item1.EMAIL:ane@lights.example",
  "NOTE:A long note that is folded over more than one line\\, as notes of this l",
  " ength are\\; it has a line\\nbreak.",
  "PHOTO;ENCODING=b:AAAABBBBCCCCDDDDAAAABBBBCCCCDDDDAAAABBBBCCCCDDDDAAAABBBB",
  " CCCC",
  "END:VCARD",
];
const BO = ["BEGIN:VCARD", "VERSION:3.0", "N:Berg;Bo;;;", "FN:Bo Berg", "END:VCARD"];
const CARDS = lines(...ANE, ...BO);

const CALENDAR = lines(
  "BEGIN:VCALENDAR",
  "VERSION:2.0",
  "BEGIN:VEVENT",
  "UID:1@lights.example",
  "SUMMARY:Clean the lens",
  'DTSTART;TZID="Europe/Oslo: west":20261103T090000',
  "DESCRIPTION:Bring cloth",
  "BEGIN:VALARM",
  "TRIGGER:-PT30M",
  "DESCRIPTION:Soon",
  "END:VALARM",
  "END:VEVENT",
  "BEGIN:VEVENT",
  "UID:2@lights.example",
  "SUMMARY:Paint",
  "DTSTART:20261104T090000",
  "END:VEVENT",
  "END:VCALENDAR",
);

type Edits = Record<string, CellEdits>;

async function edited(source: string, name: string, edits: Edits): Promise<string | string[]> {
  const { tables } = await hatch(source, { name });
  editCells(tables, edits);
  const { problems } = await compare(tables, { source, name });
  if (problems.length > 0) return problems.map(({ code, row, column }) => `${code} ${row} ${column}`);
  return text((await fold(tables, { source, name })).bytes);
}

const swap = (source: string, ...pairs: [was: string, now: string][]): string =>
  pairs.reduce((all, [was, now]) => {
    expect(all).toContain(was);
    return all.replace(was, now);
  }, source);

const CASES: [what: string, source: string, edits: Edits, result: string | string[]][] = [
  [
    "a text: its signs are escaped",
    CARDS,
    { VCARD: [[3, { "FN/value": "Bo Berg; mate, \\ 2nd" }]] },
    swap(CARDS, ["FN:Bo Berg", "FN:Bo Berg\\; mate\\, \\\\ 2nd"]),
  ],
  [
    "a long one is folded, with the line ends of the file",
    CARDS,
    { VCARD: [[3, { "FN/value": "Bo Berg, who keeps the light of Ytre Skarv, and that of the inner one in winter\nand more" }]] },
    swap(CARDS, ["FN:Bo Berg", "FN:Bo Berg\\, who keeps the light of Ytre Skarv\\, and that of the inner one\r\n  in winter\\nand more"]),
  ],
  ["a folded one becomes short", CARDS, { VCARD: [[2, { "NOTE/value": "short" }]] }, swap(CARDS, [`${ANE[7]}\r\n${ANE[8]}`, "NOTE:short"])],
  [
    "a structured value stays as it is written",
    CARDS,
    { VCARD: [[3, { "N/value": "Berg;Bo;Ærø;;" }]] },
    swap(CARDS, ["N:Berg;Bo;;;", "N:Berg;Bo;Ærø;;"]),
  ],
  [
    "a property that was not there",
    CARDS,
    { VCARD: [[3, { "EMAIL/value": "bo@lights.example" }]] },
    swap(CARDS, ["FN:Bo Berg\r\n", "FN:Bo Berg\r\nEMAIL:bo@lights.example\r\n"]),
  ],
  [
    "parameters, and one more",
    CARDS,
    {
      TEL: [
        [2, { TYPE: "home,voice", PREF: "2" }],
        [3, { value: "+47 3" }],
      ],
    },
    swap(CARDS, ["TEL;TYPE=home:", "TEL;TYPE=home,voice;PREF=2:"], ["+47 2", "+47 3"]),
  ],
  [
    "a number more",
    CARDS,
    { TEL: [["new", { VCARD: "b2ox", value: "+47 9", TYPE: "a:b" }]] },
    swap(CARDS, ["FN:Bo Berg\r\n", 'FN:Bo Berg\r\nTEL;TYPE="a:b":+47 9\r\n']),
  ],
  ["a number less", CARDS, { TEL: [[2, { [ACTION]: "remove" }]] }, swap(CARDS, ["TEL;TYPE=home:+47 1\r\n", ""])],
  [
    "a card more, and one less",
    CARDS,
    {
      VCARD: [
        [3, { [ACTION]: "remove" }],
        ["new", { "VERSION/value": "3.0", "N/value": "Vik;Cy;;;", "FN/value": "Cy Vik" }],
      ],
    },
    lines(...ANE, "BEGIN:VCARD", "VERSION:3.0", "N:Vik;Cy;;;", "FN:Cy Vik", "END:VCARD"),
  ],
  ["quotes are not in parameters", CARDS, { TEL: [[2, { TYPE: 'a"b' }]] }, ["parameter-sign 2 TYPE"]],
  [
    "properties of one name in a component and in one that it holds",
    CALENDAR,
    { VEVENT: [[2, { "VEVENT DESCRIPTION/value": "Bring two" }]], VALARM: [[2, { "VALARM DESCRIPTION/value": "Now" }]] },
    swap(CALENDAR, ["Bring cloth", "Bring two"], ["DESCRIPTION:Soon", "DESCRIPTION:Now"]),
  ],
  [
    "an event more, with an alarm of its own",
    CALENDAR,
    {
      VEVENT: [["new", { VCALENDAR: "b1tk", "UID/value": "3@lights.example", "SUMMARY/value": "Wick" }]],
      VALARM: [["new", { VEVENT: "b2as", "TRIGGER/value": "-PT5M" }]],
    },
    swap(
      CALENDAR,
      ["DTSTART:20261104T090000\r\n", "DTSTART:20261104T090000\r\nBEGIN:VALARM\r\nTRIGGER:-PT5M\r\nEND:VALARM\r\n"],
      ["END:VCALENDAR", "BEGIN:VEVENT\r\nUID:3@lights.example\r\nSUMMARY:Wick\r\nEND:VEVENT\r\nEND:VCALENDAR"],
    ),
  ],
];

describe("content lines", () => {
  test("what it is taken for, and what cells show", async () => {
    for (const [source, name] of [
      [CARDS, "c.vcf"],
      [CALENDAR, "c.ics"],
    ]) {
      const { source: told } = await survey(source, { name });
      const { plan } = await draft(source, { name });
      const { tables } = await hatch(source, { plan, name });
      expect(told.format).toBe("content-lines");
      expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
    }
    const { tables } = await hatch(CARDS, { name: "c.vcf" });
    expect(readRows(tables, "VCARD.csv")[1].slice(2, 7)).toEqual([
      "3.0",
      "Lind;Ane;;;",
      "Ane Lind, keeper",
      "ane@lights.example",
      "A long note that is folded over more than one line, as notes of this length are; it has a line\nbreak.",
    ]);
  });

  test.each(CASES)("%s", async (_, source, edits, result) => {
    expect(await edited(source, source === CARDS ? "c.vcf" : "c.ics", edits)).toEqual(result);
  });
});
