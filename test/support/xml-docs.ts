/** XML documents as people and programs really write them: odd white space, quotes, references, comments, sections. */
import fc from "fast-check";
import { Random } from "./random.js";

const TEXTS = [
  "plain",
  "Ærø",
  "漢字 и кир",
  "a &amp; b",
  "1 &lt; 2",
  "x &gt; y",
  "&quot;yes&quot; &apos;no&apos;",
  "&#65;&#x42;",
  "<![CDATA[a < b & c]]>",
  "<![CDATA[]]>",
  "pre<![CDATA[ mid ]]>post",
  "007",
  "1.50",
  "12",
  "2024-03-05",
  "true",
  "=1+2",
  "(null)",
  "[]",
  " lead and trail ",
  "\n      folded\n      text\n    ",
  "two\r\nlines",
  "",
  "  ",
  "a]]b",
  "one<!-- remark -->two",
  "&own; thing",
  "/>",
];
const ATTRIBUTES = ["plain", "Ærø", "a &amp; b", "say 'yes'", "&quot;q&quot;", "007", "", " x ", "line&#10;break", "tab\there", "a > b"];
const MIXED = ["See <b>this</b> now.", "<b>all</b> of <i>it</i>", "x<br/>y", "a <b>&amp;</b> &lt;"];

export interface XmlStyle {
  readonly indent: string | null;
  readonly line: string;
}

class Writer {
  serial = 0;
  readonly style: XmlStyle;
  constructor(readonly random: Random) {
    this.style = { indent: random.pick([null, "  ", "\t", "    "]), line: random.pick(["\n", "\r\n"]) };
  }

  gap(depth: number): string {
    const { random, style } = this;
    if (random.chance(30)) return random.pick([" ", "\n", " \n  ", "<!-- a remark -->", "<?keep this?>"]);
    return style.indent === null ? "" : style.line + style.indent.repeat(depth);
  }

  attribute(name: string, value: string): string {
    const { random } = this;
    const quote = value.includes("'") ? '"' : random.pick(['"', '"', "'"]);
    return `${random.pick([" ", " ", "  ", "\n  "])}${name}${random.pick(["=", "=", " = "])}${quote}${value}${quote}`;
  }

  /** An element with attributes and children; `null` children are left out. */
  element(name: string, attributes: readonly string[], children: readonly string[], depth: number): string {
    const { random } = this;
    const open = `<${name}${attributes.join("")}`;
    if (children.length === 0) return random.pick([`${open}/>`, `${open} />`, `${open}></${name}>`]);
    return `${open}${random.pick(["", "", " "])}>${children.map((child) => this.gap(depth + 1) + child).join("")}${this.gap(depth)}</${name}${random.pick(["", "", " "])}>`;
  }

  text(name: string, value: string, attributes: readonly string[] = []): string {
    return value === "" && this.random.chance(2) ? `<${name}${attributes.join("")}/>` : `<${name}${attributes.join("")}>${value}</${name}>`;
  }

  station(depth: number, nest: number): string {
    const { random } = this;
    const maybe = (make: () => string): string[] => (random.chance(3) ? [] : [make()]);
    const attributes = [
      this.attribute("code", `S-${++this.serial}`),
      ...maybe(() => this.attribute("status", random.pick(ATTRIBUTES))),
      ...(random.chance(5) ? [this.attribute("xml:lang", "nn")] : []),
    ];
    const children = [
      ...maybe(() => this.text("name", random.pick(TEXTS))),
      ...maybe(() =>
        this.text(
          "height",
          random.pick(["12.50", "7", "", "tall"]),
          maybe(() => this.attribute("unit", "m")),
        ),
      ),
      ...maybe(() =>
        this.element(
          "tower",
          maybe(() => this.attribute("built", "1901")),
          maybe(() => this.text("stone", random.pick(TEXTS))),
          depth + 1,
        ),
      ),
      ...maybe(() => this.text("note", random.pick([...MIXED, ...TEXTS]))),
      ...Array.from({ length: random.next(3) }, () => this.text("tag", random.pick(TEXTS))),
      ...(nest > 0
        ? maybe(() =>
            this.element(
              "lights",
              [],
              this.many(() => this.station(depth + 2, nest - 1), "light"),
              depth + 1,
            ),
          )
        : []),
    ];
    return this.element("station", attributes, random.chance(6) ? random.shuffle(children) : children, depth);
  }

  many(make: () => string, name: string): string[] {
    return Array.from({ length: this.random.next(4) }, () => make().replaceAll("station", name));
  }
}

export const xmlRecords: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const writer = new Writer(random);
  const root = writer.element(
    "register",
    random.chance(2) ? [writer.attribute("edition", "7")] : [],
    [
      ...writer.many(() => writer.station(1, 2), "station"),
      ...writer.many(() => writer.text("person", random.pick(TEXTS.filter((text) => text.trim() !== ""))), "person"),
    ],
    0,
  );
  const doctype = `<!DOCTYPE register [ <!ENTITY own "our &#60;own&#62;"> ]>`;
  const prolog = random.pick(["", '<?xml version="1.0"?>', '<?xml version="1.0" encoding="UTF-8"?>\n', "<!-- top -->\n"]);
  return `${prolog}${prolog.startsWith("<?xml") ? "" : ""}${doctype}\n${root}${random.pick(["", "\n", "\n<!-- end -->\n"])}`;
});

/** Any element at all, with names that come back at several depths. */
export const anyXml: fc.Arbitrary<string> = fc.nat().map((seed) => {
  const random = new Random(seed);
  const writer = new Writer(random);
  const build = (depth: number): string => {
    const name = random.pick(["a", "b", "c", "x:d", "_e", "Ærø", "a.b-c"]);
    const attributes = random
      .shuffle(["p", "q", "xml:space", "x:r"])
      .slice(0, random.next(3))
      .map((one) => writer.attribute(one, one === "xml:space" ? random.pick(["preserve", "default"]) : random.pick(ATTRIBUTES)));
    if (depth > 4 || random.chance(3)) return writer.text(name, random.pick([...TEXTS, ...MIXED]).replace("&own;", "own"), attributes);
    return writer.element(
      name,
      attributes,
      Array.from({ length: random.next(4) }, () => build(depth + 1)),
      depth,
    );
  };
  return `${random.pick(["", "\ufeff", "<?xml version='1.0'?>\n"])}${writer.element("root", [' xmlns:x="urn:x"'], [build(1), build(1)], 0)}${random.pick(["", "\n", " \r\n"])}`;
});
