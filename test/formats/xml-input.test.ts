/** XML as it comes: what is refused and in which words, what is kept, and what an edit writes. */
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, HatchFoldError, survey, formatPlace } from "hatch-fold";
import { SaxesParser } from "saxes";
import { bytes, edit, readRows, setCell, text } from "../support/sheets.js";
import { brief } from "../support/brief.js";

const name = "notices.xml";
const said = (error: unknown): string => {
  const known = error as HatchFoldError;
  return `${formatPlace(known.place)}: ${brief(known)}`;
};

describe("what is not well formed: file, line, column, the open elements", () => {
  test.each<[string, string]>([
    ["", "notices.xml:1:1: xml-empty"],
    ["<a><b></a>", 'notices.xml:1:7: xml-end-tag {"byte":60,"open":["a","b"],"seen":"</a>"}'],
    ["<a>\n <b>\n </c></a>", 'notices.xml:3:2: xml-end-tag {"byte":60,"open":["a","b"],"seen":"</c></a>"}'],
    ["<a>", 'notices.xml:1:4: xml-cut {"open":["a"]}'],
    ["<a", 'notices.xml:1:3: xml-cut {"open":[]}'],
    ["<a b=1/>", 'notices.xml:1:4: xml-attribute {"byte":98,"open":[],"seen":"b=1/>"}'],
    ["<a b='1'c='2'/>", 'notices.xml:1:9: xml-attribute {"byte":99,"open":[],"seen":"c=\'2\'/>"}'],
    ["<a b='1' b='2'/>", 'notices.xml:1:10: xml-attribute-twice {"byte":98,"open":[],"seen":"b=\'2\'/>"}'],
    ["<a b='<'/>", 'notices.xml:1:7: xml-less-in-attribute {"byte":60,"open":[],"seen":"<\'/>"}'],
    ["<a>&x;</a>", 'notices.xml:1:4: xml-entity {"byte":38,"name":"x","open":["a"],"seen":"&x;</a>"}'],
    ["<a>& b</a>", 'notices.xml:1:4: xml-ampersand {"byte":38,"open":["a"],"seen":"& b</a>"}'],
    ["<a>]]></a>", 'notices.xml:1:4: xml-cdata-end {"byte":93,"open":["a"],"seen":"]]></a>"}'],
    ["<a/><b/>", 'notices.xml:1:5: xml-second-root {"byte":60,"open":[],"seen":"<b/>"}'],
    ["<a/>text", 'notices.xml:1:5: xml-outside {"byte":116,"open":[],"seen":"text"}'],
    ["<a><!-- a -- b --></a>", 'notices.xml:1:11: xml-comment {"byte":45,"open":["a"],"seen":"-- b --></a>"}'],
    ["<a>\u0001</a>", 'notices.xml:1:4: xml-control {"byte":1,"open":["a"],"seen":"\\u0001</a>"}'],
    ["<!DOCTYPE a [<!ENTITY e '&e;'>]><a>&e;</a>", 'notices.xml:1:1: xml-entity-loop {"names":["e","e"]}'],
  ])("%s", async (source, expected) => {
    const error: unknown = await survey(source, { name }).catch((caught: unknown) => caught);
    expect(error).toBeInstanceOf(HatchFoldError);
    expect(said(error)).toBe(expected);
  });

  test("an expansion bomb is refused before it goes off", async () => {
    const entities = Array.from({ length: 40 }, (_, i) => `<!ENTITY e${i} "${i === 0 ? "boom" : `&e${i - 1};`.repeat(10)}">`).reverse();
    const error: unknown = await survey(`<!DOCTYPE a [${entities.join("")}]><a>&e39;</a>`, { name }).catch((caught: unknown) => caught);
    expect(said(error)).toMatch(/xml-entity-(large|loop)/);
  });
  test("external entities are not fetched, and that is said", async () => {
    const source = '<!DOCTYPE a SYSTEM "http://nowhere.invalid/a.dtd"><a><t>x &known; y</t><t>z</t></a>';
    const { remarks } = await survey(source, { name });
    expect(remarks.map((remark) => remark.message).join()).toContain("never fetched");
    const { tables } = await hatch(source, { name });
    expect(tables.text("t.csv")).toContain("x &known; y");
    expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
  });
  test("100,000 elements deep", async () => {
    const source = `${"<a>".repeat(100_000)}${"</a>".repeat(100_000)}`;
    const { tables } = await hatch(source, { name });
    expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
  });
});

describe("one edit, as a person would have made it in the file", () => {
  const list = (inner: string): string => `<r>\n  <n c="1">${inner}</n>\n  <n c="2"><t>other</t><u k="v">w</u></n>\n</r>`;
  const edits: [what: string, inner: string, column: string, value: string, after: string][] = [
    ["a text", "<t>old</t>", "t", "a < b & c", "<t>a &lt; b &amp; c</t>"],
    ["white space around a text stays", "<t>\n    old\n  </t>", "t", "new", "<t>\n    new\n  </t>"],
    ["a CDATA section stays one", "<t><![CDATA[old]]></t>", "t", "a ]]> b", "<t><![CDATA[a ]]]]><![CDATA[> b]]></t>"],
    ["an element without content gets a text", "<t/>", "t", "new", "<t>new</t>"],
    ["also with attributes", '<u k="x" />', "u", "new", '<u k="x">new</u>'],
    ["an attribute keeps its quotes", "<u k='x'>w</u>", "u/k", 'it\'s "so"', "<u k='it&apos;s \"so\"'>w</u>"],
    ["an attribute is added", "<u>w</u>", "u/k", "new", '<u k="new">w</u>'],
    ["an attribute goes", '<u k="x">w</u>', "u/k", "", "<u>w</u>"],
    ["an element is added behind those before it", "<t>a</t>", "u", "w", "<t>a</t><u>w</u>"],
    ["an element goes", "<t>a</t><u>w</u>", "u", "", "<t>a</t>"],
    ["a comment beside it stays", "<t>a</t><!-- c --><u>w</u>", "t", "b", "<t>b</t><!-- c --><u>w</u>"],
  ];
  test.each(edits)("%s", async (_, inner, column, value, after) => {
    const source = list(inner);
    const { tables } = await hatch(source, { name });
    setCell(tables, "n.csv", 2, column, value);
    expect(text((await fold(tables, { source, name })).bytes)).toBe(list(after));
  });
  test("an added record is indented as its siblings, with its children", async () => {
    const source = '<r>\r\n\t<n c="1">\r\n\t\t<t>a</t>\r\n\t</n>\r\n</r>\r\n<!-- end -->';
    const { tables } = await hatch(source, {
      name,
      plan: 'hatchfold: 1\nsources: { s: { file: n.xml } }\ntables: { n: { rows: r/n, columns: { c: "@c", t: t } } }',
    });
    tables.contents.set("n.csv", bytes(`${tables.text("n.csv")},,2,b & c\r\n`));
    expect(text((await fold(tables, { source, name })).bytes)).toBe(
      source.replace("\r\n</r>", '\r\n\t<n c="2">\r\n\t\t<t>b &amp; c</t>\r\n\t</n>\r\n</r>'),
    );
  });
  test("text cannot be cleared while an attribute stands beside it; (empty) can be said", async () => {
    const source = list('<u k="x">w</u>');
    const { tables } = await hatch(source, { name });
    setCell(tables, "n.csv", 2, "u", "");
    await expect(fold(tables, { source, name })).rejects.toMatchObject({
      code: "problems-left",
      problems: [{ code: "beside-left", column: "u" }],
    });
    setCell(tables, "n.csv", 2, "u", "(empty)");
    expect(text((await fold(tables, { source, name })).bytes)).toBe(list('<u k="x"></u>'));
  });
  test("the root element cannot be cleared away; (empty) can be said", async () => {
    const source = "<r>words</r>";
    const { tables } = await hatch(source, { name });
    setCell(tables, "document.csv", 2, "r", "");
    await expect(fold(tables, { source, name })).rejects.toMatchObject({ code: "problems-left", problems: [{ code: "cell-emptied" }] });
    setCell(tables, "document.csv", 2, "r", "(empty)");
    expect(text((await fold(tables, { source, name })).bytes)).toBe("<r></r>");
  });
  test("names that begin alike, come in another order, or are no names at all are told apart", async () => {
    const source = '<all><r ab="1" a="2"><bc>3</bc><b>4</b></r><r a="5" abc="6"><b>7</b><b-c>8</b-c><bc/></r><r ><b >9</b ></r></all>';
    const plan = `hatchfold: 1
sources: { s: { file: notices.xml } }
tables: { r: { rows: all/r, columns: { a: "@a", ab: "@ab", b: b, bc: bc, odd: "b>4</b", none: "@" } } }`;
    const { tables } = await hatch(source, { name, plan });
    const rows = tables.text("r.csv").trimEnd().split("\r\n").slice(1);
    expect(rows.map((row) => row.split(",").slice(2).join())).toEqual(["2,1,4,3,,", "5,,7,(empty),,", ",,9,,,"]);
    expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
  });
  test("mixed content is kept as it is written, and must stay well formed", async () => {
    const source = list("<t>see <b>this</b></t>");
    const { tables } = await hatch(source, { name });
    setCell(tables, "n.csv", 2, "t", "see <b>that</b> &amp; more");
    expect(text((await fold(tables, { source, name })).bytes)).toBe(list("<t>see <b>that</b> &amp; more</t>"));
    setCell(tables, "n.csv", 2, "t", "plain");
    expect(text((await fold(tables, { source, name })).bytes)).toBe(list("<t>plain</t>"));
    setCell(tables, "n.csv", 2, "t", "see <b>that");
    await expect(fold(tables, { source, name })).rejects.toMatchObject({ code: "problems-left", problems: [{ code: "verbatim" }] });
  });
});

describe("a cell that held elements as they are written", () => {
  const SOURCE = '<r><s c="1"><t>a <b>x</b> y</t></s><s c="2"><t>plain</t></s></r>';
  const TYPED: [typed: string, written: string | null, shown?: string][] = [
    ["a <i>z</i> &amp; b", "a <i>z</i> &amp; b"],
    ["no more elements", "no more elements"],
    ["a &amp; b", "a &amp; b", "a & b"],
    ["&#65;", "A", "A"],
    ["<![CDATA[a < b]]>", "a &lt; b", "a < b"],
    ["a & b", null],
    ["</t><t>", null],
  ];
  test.each(TYPED)("%s", async (...[typed, written, shown = typed]: (typeof TYPED)[number]) => {
    const { tables } = await hatch(SOURCE, { name: "a.xml" });
    setCell(tables, "s.csv", 2, "t", typed);
    const review = await compare(tables, { source: SOURCE, name: "a.xml" });
    expect(review.problems.map(({ code }) => code)).toEqual(written === null ? ["verbatim"] : []);
    if (written === null) return;
    expect(review.changes.map((change) => change.new)).toEqual([shown]);
    expect(text((await review.fold()).bytes)).toBe(SOURCE.replace("a <b>x</b> y", written));
  });
});

describe("namespaces and encodings", () => {
  test("a plan's prefix stands for the namespace, whatever the file calls it", async () => {
    const plan =
      'hatchfold: 1\nsources: { s: { file: n.xml, format: xml, namespaces: { c: urn:coast } } }\ntables: { n: { rows: c:r/c:n, columns: { no: "@no", t: c:t, g: "@c:g" } } }';
    for (const [open, p] of [
      ["xmlns:c='urn:coast'", "c:"],
      ["xmlns:x='urn:coast'", "x:"],
      ["xmlns='urn:coast' xmlns:y='urn:coast'", ""],
    ]) {
      const a = p === "" ? "y:" : p;
      const source = `<${p}r ${open}><${p}n no='1' ${a}g='2'><${p}t>old</${p}t></${p}n></${p}r>`;
      const { tables } = await hatch(source, { name, plan });
      expect(tables.text("n.csv")).toContain(",,1,old,2");
      setCell(tables, "n.csv", 2, "t", "new");
      expect(text((await fold(tables, { source, name })).bytes)).toBe(source.replace("old", "new"));
    }
  });
  const NAMED: [what: string, source: string, wants: string[]][] = [
    [
      "the plan's own prefix",
      "<c:r xmlns:c='urn:coast'><c:n no='1'/></c:r>",
      ["<c:n no='1' c:g=\"G\">", "<c:t>new</c:t>", "</c:n><c:n no="],
    ],
    ["another one", "<x:r xmlns:x='urn:coast'><x:n no='1'/></x:r>", ["<x:n no='1' x:g=\"G\">", "<x:t>new</x:t>", "</x:n><x:n no="]],
    [
      "none, and none for attributes",
      "<r xmlns='urn:coast'><n no='1'/></r>",
      ['<n no=\'1\' xmlns:c="urn:coast" c:g="G">', "<t>new</t>", '<n xmlns:c="urn:coast" no="2" c:g="H">'],
    ],
    [
      "none, but one for attributes",
      "<r xmlns='urn:coast' xmlns:y='urn:coast'><n no='1'/></r>",
      ["<n no='1' y:g=\"G\">", "<t>new</t>", '<n no="2" y:g="H">'],
    ],
    [
      "one that is declared further in",
      "<q:r xmlns:q='urn:coast'><n xmlns='urn:coast' no='1'/></q:r>",
      ["<n xmlns='urn:coast' no='1' q:g=\"G\">", "<t>new</t>", '<q:n no="2" q:g="H">'],
    ],
    [
      "a name in no namespace among such",
      "<r xmlns='urn:coast'><n no='1'><t>old</t></n></r>",
      ["<t>new</t>", '<free xmlns="">f</free>', '<n xmlns:c="urn:coast" no="2" c:g="H">'],
    ],
  ];
  test.each(NAMED)("what is added is in the plan's namespace by a prefix of the file: %s", async (_, source, wants) => {
    const plan =
      'hatchfold: 1\nsources: { s: { file: n.xml, format: xml, namespaces: { c: urn:coast } } }\ntables: { n: { rows: c:r/c:n, columns: { no: "@no", t: c:t, g: "@c:g", free: free } } }';
    const { tables } = await hatch(source, { name, plan });
    edit(tables, "n.csv", (rows) => [rows[0], [...rows[1].slice(0, 2), "1", "new", "G", "f"], ["", "", "2", "two", "H", ""]]);
    const { bytes: folded } = await fold(tables, { source, name });
    // quotes are as the siblings have them
    const quoted = (markup: string): string => markup.replaceAll("'", '"');
    for (const want of wants) expect(quoted(text(folded))).toContain(quoted(want));
    // another parser, which knows namespaces, is the judge
    const parser = new SaxesParser({ xmlns: true });
    const seen: string[] = [];
    parser.on("opentag", (tag) =>
      seen.push(`${tag.uri} ${tag.local}`, ...Object.values(tag.attributes).map((one) => `${one.uri} @${one.local}`)),
    );
    parser.write(text(folded)).close();
    for (const one of ["urn:coast t", "urn:coast @g", " free", " @no"]) expect(seen).toContain(one);
    const again = await hatch(folded, { name, plan });
    expect(readRows(again.tables, "n.csv").map((row) => row.slice(2).join())).toEqual(["no,t,g,free", "1,new,G,f", "2,two,H,"]);
  });
  test.each([
    ["in a text", "<t>&#25140;&#54620; x</t>", "v", "戴한 x"],
    ["outside the first plane", "<t>&#128674; &amp;</t>", "v", "🚢 &"],
    ['xml-less-in-attribute {"byte":60,"open":[],"seen":"<\'/>"}', '<t n="&#28450;">old</t>', "n", "漢"],
    ["in CDATA, which has no references", "<t><![CDATA[a<]]>&#28450;<![CDATA[b]]></t>", "v", "a<漢b", "<t><![CDATA[old]]></t>"],
  ])("letters that the encoding lacks are references: %s", async (_, element, title, value, was = '<t n="x">old</t>') => {
    const doc = (one: string): Uint8Array =>
      Uint8Array.from(`<?xml version="1.0" encoding="iso-8859-1"?><r>${one}<t n="\xc6">b</t></r>`, (c) => c.charCodeAt(0));
    const plan = `hatchfold: 1\nsources: { s: { file: d.xml } }\ntables: { t: { rows: r/t, columns: { n: "@n", v: . } } }`;
    const source = doc(was);
    const { tables } = await hatch(source, { name, plan });
    setCell(tables, "t.csv", 2, title, value);
    const { bytes: folded } = await fold(tables, { source, name });
    const expected = title === "n" ? element : was.startsWith("<t n") ? element.replace("<t>", '<t n="x">') : element;
    expect(String.fromCharCode(...folded)).toBe(String.fromCharCode(...doc(expected)));
    expect(readRows((await hatch(folded, { name, plan })).tables, "t.csv")[1]).toContain(value);
  });

  test.each(["iso-8859-1", "windows-1252"])("%s, as declared", async (encoding) => {
    const source = Uint8Array.from(`<?xml version="1.0" encoding="${encoding}"?><r><t>\xc6r\xf8</t><t>b</t></r>`, (c) => c.charCodeAt(0));
    const { tables, receipt } = await hatch(source, { name });
    expect(receipt.source.encoding).toBe(encoding);
    expect(tables.text("t.csv")).toContain("Ærø");
    expect((await fold(tables, { source, name })).bytes).toEqual(source);
    setCell(tables, "t.csv", 3, "value", "Åse");
    const { bytes: folded } = await fold(tables, { source, name });
    expect(String.fromCharCode(...folded)).toContain("<t>\xc5se</t>");
  });
});

describe("what other readers refuse is refused, and what they take is taken", () => {
  const deep = (n: number, tag: (i: number) => string, end: (i: number) => string): string =>
    `${Array.from({ length: n }, (_, i) => tag(i)).join("")}x${Array.from({ length: n }, (_, i) => end(n - 1 - i)).join("")}`;
  const REFUSED: [string, string, string][] = [
    ["a declaration in the middle", '<a/><?xml version="1.0"?>', "xml-declaration"],
    ["a declaration behind a blank", ' <?xml version="1.0"?><a/>', "xml-declaration"],
    ["a control character in a comment", "<a><!-- \u0001 --></a>", "xml-control"],
    ["a control character in an instruction", "<a><?p \u0001?></a>", "xml-control"],
    ["an instruction without a name", "<a><? p?></a>", "xml-tag"],
    ["a prefix of an element that nobody declares", "<a><p:b/></a>", "xml-prefix"],
    ["a prefix of an attribute that nobody declares", '<a><b p:c="1"/></a>', "xml-prefix"],
    ["a prefix behind its scope", '<a><b xmlns:p="u"/><p:c/></a>', "xml-prefix"],
    ["two attributes equal by namespace", '<a xmlns:p="u" xmlns:q="u" p:b="1" q:b="2"/>', "xml-attribute-twice"],
    [
      "two attributes equal among many",
      `<a ${Array.from({ length: 60 }, (_, i) => `b${i}="1"`).join(" ")} b7="1"/>`,
      "xml-attribute-twice",
    ],
    ["a second DOCTYPE", "<!DOCTYPE a><!DOCTYPE a><a/>", "xml-doctype-twice"],
    ["U+FFFE in a text", "<a>\ufffe</a>", "xml-control"],
    ["U+FFFF in an attribute", '<a b="\uffff"/>', "xml-control"],
    ["U+FFFE in a CDATA section", "<a><![CDATA[\ufffe]]></a>", "xml-control"],
    ["a name that begins with a wrong character", "<a><\u00d7b/></a>", "xml-name-wrong"],
    ["a name that begins with a combining one", "<a><\u0301b/></a>", "xml-name-wrong"],
    ["a name that begins with a digit behind its prefix", '<a xmlns:p="u"><p:1/></a>', "xml-name-wrong"],
    ["a name with two colons", '<a xmlns:p="u"><p:b:c/></a>', "xml-name-wrong"],
    ["a name that begins with a colon", "<:a/>", "xml-tag"],
    [
      "more namespaces than anybody needs",
      deep(
        1200,
        (i) => `<p${i}:e xmlns:p${i}="u${i}">`,
        (i) => `</p${i}:e>`,
      ),
      "xml-namespaces",
    ],
  ];
  test.each(REFUSED)("%s", async (_, source, code) => {
    await expect(survey(source, { name })).rejects.toMatchObject({ code });
    await expect(hatch(source, { name })).rejects.toMatchObject({ code });
  });

  const TAKEN: [string, string][] = [
    ["quotes in an instruction inside the DOCTYPE", `<!DOCTYPE a [<?p it's "so ?>]><a><b>1</b><b>2</b></a>`],
    ["leading zeros in references", "<a><b>&#0000000065;</b><b>&#x00000041;</b></a>"],
    ["a prefix that is declared where it is used", '<a><p:b xmlns:p="u">1</p:b><p:b xmlns:p="v">2</p:b></a>'],
    ["a prefix that is redeclared, and back", '<p:a xmlns:p="u"><p:b xmlns:p="v"><p:c/></p:b><p:b/></p:a>'],
    ["one local name in two namespaces", '<a xmlns:p="u" xmlns:q="v" p:b="1" q:b="2" b="3"/>'],
    ["names of other scripts", "<r\u00e9seau><\u706f n\u00f8kkel='1'>x</\u706f><\u706f/></r\u00e9seau>"],
    ["a declaration behind a byte-order mark", '\ufeff<?xml version="1.0"?><a><b>1</b></a>'],
    ["an instruction whose name begins like a declaration", "<a><?xml-stylesheet href='x'?><b>1</b></a>"],
    [
      "elements 20,000 deep",
      deep(
        20_000,
        () => "<e>",
        () => "</e>",
      ),
    ],
  ];
  test.each(TAKEN)("%s", async (_, source) => {
    const { tables } = await hatch(source, { name });
    expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
  });

  test("a list of open elements does not fill the screen", async () => {
    const error: unknown = await survey("<e>".repeat(500) + "&", { name }).catch((caught: unknown) => caught);
    expect(said(error).length).toBeLessThan(300);
  });
});
