/** The demo's other files: what is edited in each, with a slip and its mending. Plain data. */

/** A row found by a cell and changed, or a row added. */
export interface DemoEdit {
  readonly table: string;
  readonly find?: readonly [title: string, value: string];
  readonly cells: Readonly<Record<string, string>>;
}

export interface Chapter {
  readonly file: string;
  /** Files that the plan reads together with it. */
  readonly also?: readonly string[];
  /** A plan that ships with the demo; drafted where there is none. */
  readonly plan: string | null;
  /** The file alone does not show how it is to be read. */
  readonly isOpaque?: boolean;
  readonly about: string;
  /** The edits, in words. */
  readonly told: readonly string[];
  readonly edits: readonly DemoEdit[];
  readonly mended: readonly DemoEdit[];
}

export const CHAPTERS: readonly Chapter[] = [
  {
    file: "notices.xml",
    plan: null,
    about: "Notices to mariners in XML: sections, the lights they are about as code and name, texts with elements in them.",
    told: [
      "light   0033 renamed together with its code: 0035, Havblikk; a light added to notice 0418",
      "notice  0417 put in force; the words of a text with elements in it changed; 0414 marked remove",
      "slip: an element that is not closed",
    ],
    edits: [
      { table: "light", find: ["ref", "0033"], cells: { ref: "0035", name: "Havblikk" } },
      { table: "light", cells: { notice: "0418", ref: "0030", name: "Ulvøy, rear" } },
      { table: "notice", find: ["no", "0417"], cells: { status: "in force" } },
      { table: "notice", find: ["no", "0414"], cells: { "fold action": "remove" } },
      { table: "notice", find: ["no", "0412"], cells: { text: "Range reduced to <b>7 miles until further notice." } },
    ],
    mended: [{ table: "notice", find: ["no", "0412"], cells: { text: "Range reduced to <b>7 miles</b> until further notice." } }],
  },
  {
    file: "stores.dat",
    plan: "stores-plan.yaml",
    about: "The stores ledger by columns, in windows-1252: batches, stations, items, and lines that count and sum them.",
    told: [
      "items   a quantity and a price changed; an item added to S-024; the glass of S-001 marked remove",
      "slip: a name that is longer than its field",
    ],
    edits: [
      { table: "items", find: ["code", "LAMP-0200"], cells: { quantity: "48", price: "1199.50" } },
      {
        table: "items",
        cells: { stations: "S-024", code: "LENS-007", name: "SPARE LENS", quantity: "1", price: "7350.00", due: "2027-04-30" },
      },
      { table: "items", find: ["code", "GLASS-1E5"], cells: { "fold action": "remove" } },
      { table: "stations", find: ["code", "S-010"], cells: { name: "Langgrunn, store at the landing" } },
    ],
    mended: [{ table: "stations", find: ["code", "S-010"], cells: { name: "Langgrunn, landing" } }],
  },
  {
    file: "payments.txt",
    plan: "payments-plan.yaml",
    isOpaque: true,
    about: "A payment file of 94 columns: batches of entries, control lines with hash totals, and nines up to a block of ten lines.",
    told: [
      "entries  an amount changed, one marked remove, one added to the wages; the control lines and the nines follow",
      "slip: an amount with three decimals",
    ],
    edits: [
      { table: "entries", find: ["person", "P-001"], cells: { amount: "4400.00" } },
      { table: "entries", find: ["person", "ROPE-1"], cells: { "fold action": "remove" } },
      {
        table: "entries",
        cells: {
          batches: "0000001",
          code: "22",
          bank: "07100001",
          account: "40010077777",
          amount: "150",
          person: "P-007",
          name: "ASE AERO",
        },
      },
      { table: "entries", find: ["person", "P-002"], cells: { amount: "3980.005" } },
    ],
    mended: [{ table: "entries", find: ["person", "P-002"], cells: { amount: "3980.50" } }],
  },
  {
    file: "stocks.edi",
    plan: "stocks-plan.yaml",
    about: "Stocks of the depots as an electronic document, all in one line: messages, lines, and segments that belong to them.",
    told: [
      "lines    a count changed, a text with signs of the file in it, a line added to M2; the counts of segments follow",
      "slip: a day that does not exist",
    ],
    edits: [
      { table: "lines", find: ["count", "868"], cells: { count: "900", text: "Rope: hemp, 12+mm" } },
      { table: "lines", cells: { messages: "M2", item: "WICK-3", count: "5", unit: "BOX" } },
      { table: "lines", find: ["item", "LAMP-2"], cells: { due: "2027-02-30" } },
    ],
    mended: [{ table: "lines", find: ["item", "LAMP-2"], cells: { due: "2027-02-28" } }],
  },
  {
    file: "journal.txt",
    plan: "journal-plan.yaml",
    about: "A journal with decimal commas and dates without leading zeros; its totals stand at the top and at the end.",
    told: ["entries  two amounts changed, two entries added; numbers and totals follow", "slip: an amount that is no number"],
    edits: [
      { table: "entries", find: ["text", "Boat to Ytre Skarv"], cells: { debit: "360.5" } },
      { table: "entries", find: ["text", "Cash"], cells: { credit: "360,5O" } },
      { table: "entries", cells: { day: "2026-11-04", account: "4100", debit: "12000", text: "Oil, colza" } },
      { table: "entries", cells: { day: "2026-11-04", account: "2400", credit: "12000", text: "Havn Oil" } },
    ],
    mended: [{ table: "entries", find: ["text", "Cash"], cells: { credit: "360.5" } }],
  },
  {
    file: "wages.dat",
    plan: "wages-plan.yaml",
    isOpaque: true,
    about: "Wages as a mainframe keeps them: EBCDIC, records without line ends, packed decimals and a binary number.",
    told: ["wages    a name, a wage and a balance changed; a record added", "slip: more digits than the bytes hold"],
    edits: [
      { table: "wages", find: ["person", "P-004"], cells: { name: "Cy Ærø Vik", pay: "1600", balance: "-8" } },
      { table: "wages", cells: { person: "P-009", name: "Dag Holm", pay: "2750.25", hours: "100", grade: "A1" } },
      { table: "wages", find: ["person", "P-002"], cells: { hours: "123456.5" } },
    ],
    mended: [{ table: "wages", find: ["person", "P-002"], cells: { hours: "152.5" } }],
  },
  {
    file: "lamps.txt",
    plan: "lamps-plan.yaml",
    about: "Up to three lamps in the line of each light: a kind, its hours and a flag, three times over. Each is a row.",
    told: [
      "lamps    hours changed, a lamp moved to Nordlys with its flag, one added, one removed; how many are lit follows",
      "slip: a fourth lamp where there is room for three",
    ],
    edits: [
      { table: "lamps", find: ["kind", "SECT"], cells: { lights: "L004", hours: "640" } },
      { table: "lamps", find: ["hours", "30"], cells: { "fold action": "remove" } },
      { table: "lamps", cells: { lights: "L005", kind: "FOG", hours: "4" } },
      { table: "lamps", cells: { lights: "L003", kind: "REAR", hours: "8" } },
      { table: "lamps", cells: { lights: "L003", kind: "SIDE", hours: "8" } },
    ],
    mended: [{ table: "lamps", find: ["kind", "SIDE"], cells: { lights: "L001" } }],
  },
  {
    file: "keepers.vcf",
    plan: null,
    about: "The keepers as contacts: folded lines, parameters, texts with escapes; the plan is drafted from the file.",
    told: [
      "VCARD    a note rewritten, an e-mail address where there was none",
      "TEL      a kind of number changed",
      "slip: a quote in a parameter",
    ],
    edits: [
      { table: "VCARD", find: ["UID/value", "P-001"], cells: { "NOTE/value": "Has the keys of Skarvøy; ring the bell, twice." } },
      { table: "VCARD", find: ["UID/value", "P-002"], cells: { "EMAIL/value": "bo@lights.example" } },
      { table: "TEL", find: ["TYPE", "cell"], cells: { TYPE: 'cell"' } },
    ],
    mended: [{ table: "TEL", find: ["TYPE", 'cell"'], cells: { TYPE: "cell,voice" } }],
  },
  {
    file: "orders.txt",
    plan: "orders-plan.yaml",
    about: "Work orders: a header line for each, its tasks below it, and a line that counts tasks and hours.",
    told: [
      "tasks   one done, with other hours; one added to W-0095; one moved from W-0091 to W-0092",
      "slip: an order that does not exist",
    ],
    edits: [
      { table: "tasks", find: ["what", "Paint, white, two coats"], cells: { hours: "7.50", done: "yes" } },
      { table: "tasks", cells: { orders: "W-0095", no: "2", what: "Bring lamp 0035", hours: "0.50", done: "no" } },
      { table: "tasks", find: ["what", "Replace wick 007"], cells: { orders: "W-0992" } },
    ],
    mended: [{ table: "tasks", find: ["what", "Replace wick 007"], cells: { orders: "W-0092" } }],
  },
  {
    file: "lights.csv",
    plan: null,
    about: "A light list under a line of headers, with notes above it, semicolons and decimal commas.",
    told: ["lights   a range and a remark changed, a remark where the line had ended before, a light added", "slip: a fold mark damaged"],
    edits: [
      { table: "lights", find: ["no", "0009"], cells: { range: "12,5", remarks: 'range measured; "about" gone' } },
      { table: "lights", find: ["no", "0033"], cells: { remarks: "see notice 0417" } },
      { table: "lights", cells: { no: "0036", station: "S-014", name: "Fuglesand", character: "Q W", colour: "W", range: "4,0" } },
      { table: "lights", find: ["no", "0007"], cells: { "fold mark": "b7" } },
    ],
    mended: [{ table: "lights", find: ["no", "0007"], cells: { "fold mark": "" } }],
  },
  {
    file: "contacts.txt",
    plan: null,
    about: "Contact cards: blocks of Name: value lines, some folded, some that come twice.",
    told: [
      "contacts   a note over two lines, a card added",
      "Telephone  a number put in where there was none, one corrected, two for the new card",
      "slip: a note with a blank line in it, which would end the block",
    ],
    edits: [
      {
        table: "contacts",
        find: ["Person", "P-006"],
        cells: { Note: "Number is right again;\n\nask him for 007." },
      },
      { table: "contacts", cells: { Name: "Iria Costa", Person: "P-009", Post: "inspector" } },
      { table: "Telephone", find: ["value", "056 000007"], cells: { value: "056 000008" } },
      { table: "Telephone", cells: { contacts: "Bao 李", value: "055 629253" } },
      { table: "Telephone", cells: { contacts: "Iria Costa", value: "059 760256" } },
      { table: "Telephone", cells: { contacts: "Iria Costa", value: "059 760257" } },
    ],
    mended: [{ table: "contacts", find: ["Person", "P-006"], cells: { Note: "Number is right again;\nask him for 007." } }],
  },
  {
    file: "register.json",
    plan: "relations-plan.yaml",
    about: "The register again, by a plan that knows its relations: people, stations, and the postings between them.",
    told: [
      "people    a new one, who calls herself +rut until she has an id",
      "postings  she is posted to S-004; P-009 goes from S-017 to S-018",
      "stations  a tag more in one cell of S-002",
      "slip: a station with a letter O for a nought",
    ],
    edits: [
      { table: "people", cells: { "fold mark": "+rut", name: "Rut Ellingsen", since: "2026-09-01" } },
      { table: "postings", cells: { person: "+rut", station: "S-OO4", role: "keeper", since: "2026-10-01" } },
      { table: "postings", find: ["person", "P-009"], cells: { station: "S-018" } },
      { table: "stations", find: ["code", "S-002"], cells: { tags: "fog horn | museum" } },
    ],
    mended: [{ table: "postings", find: ["station", "S-OO4"], cells: { station: "S-004" } }],
  },
  {
    file: "notices.xml",
    also: ["register.json"],
    plan: "bulletin-plan.yaml",
    about: "Two sources at once: the notices in XML name lights and people of the register in JSON. Both are checked and folded together.",
    told: [
      "people    a new one in the register, who calls herself +vilde until she has an id",
      "notices   0414 was reported by her; the id goes into the XML file",
      "affected  0412 is about light 0002, not 0006",
      "slip: a light that is not in the register",
    ],
    edits: [
      { table: "people", cells: { "fold mark": "+vilde", name: "Vilde Storm" } },
      { table: "notices", find: ["no", "0414"], cells: { "reported by": "+vilde" } },
      { table: "affected", find: ["light", "0006"], cells: { light: "O002" } },
    ],
    mended: [{ table: "affected", find: ["light", "O002"], cells: { light: "0002" } }],
  },
  {
    file: "watches.json",
    plan: "watches-plan.yaml",
    about:
      "The winter's watches, each thing in the layout that suits it: crews and stations that name each other, boats in rows beneath, watches as a cross table, relief crews packed in step, the parts of a lantern as a tree.",
    told: [
      "people    P-008 is put to S-004: the crew there follows",
      "stations  a boat more, in a row beneath",
      "watches   the Sundays at S-004 go from P-005 to P-008: two cells",
      "reliefs   P-005 joins the crew of week 45, between the two, with a ticket for the engine: four cells in step",
      "parts     the lens of LN-02 goes below a head that is made for it; a blade along a path that is not there yet",
      "slips: a role left out, so that the roles would shift; a space in that path, which would make a second branch",
    ],
    edits: [
      { table: "people", find: ["id", "P-008"], cells: { stations: "S-004" } },
      { table: "stations", cells: { stations: "S-004", no: "031", kind: "rowing boat", oars: "2" } },
      { table: "watches", find: ["station", "S-004"], cells: { "P-005": "", "P-008": "Sundays" } },
      {
        table: "reliefs",
        find: ["week", "2026-W45"],
        cells: {
          crew: "P-003; P-005; P-008",
          roles: "helm; deck",
          since: "2026-11-02; 2026-11-05; 2026-11-04",
          tickets: "radio, first aid; engine; []",
        },
      },
      { table: "parts", find: ["path", "LN-02/Optics/Lens"], cells: { path: "LN-02/Optics/Head/Lens" } },
      { table: "parts", cells: { path: "LN-01/Optics /Shutter/Blade", quantity: "6" } },
    ],
    mended: [
      { table: "reliefs", find: ["week", "2026-W45"], cells: { roles: "helm; engine; deck" } },
      { table: "parts", find: ["path", "LN-01/Optics /Shutter/Blade"], cells: { path: "LN-01/Optics/Shutter/Blade" } },
    ],
  },
  {
    file: "depots.csv",
    plan: "depots-plan.yaml",
    about: "What lies in the depots: flat lines that hold a tree by a level and their order. The table shows parents and paths beside it.",
    told: [
      "things  the paint locker of Ytre Holm goes into its chain loft, by its path, with what is in it",
      "        a lamp more, along a path to a shelf that is not there yet",
      "slip: Optics Store for Optics store, which would make a second one",
    ],
    edits: [
      { table: "things", find: ["path", "Ytre Holm depot/Paint locker"], cells: { path: "Ytre Holm depot/Chain loft/Paint locker" } },
      { table: "things", cells: { path: "Skarvøy depot/Optics Store/Shelf 2/Lamp, red", stock: "0008" } },
    ],
    mended: [
      {
        table: "things",
        find: ["path", "Skarvøy depot/Optics Store/Shelf 2/Lamp, red"],
        cells: { path: "Skarvøy depot/Optics store/Shelf 2/Lamp, red" },
      },
    ],
  },
  {
    file: "rounds.csv",
    plan: "rounds-plan.yaml",
    about: "Rounds of inspection, each written once and blank in the lines below: the table shows it in every row.",
    told: ["visits  the first of the summer goes to spring, and the other two stay; one more for the autumn", "slip: a round that is none"],
    edits: [
      { table: "visits", find: ["what", "Paint the gallery"], cells: { round: "Spring" } },
      { table: "visits", cells: { round: "Autmun", station: "S-002", what: "Drain the pipes", by: "P-003" } },
    ],
    mended: [{ table: "visits", find: ["what", "Drain the pipes"], cells: { round: "Autumn" } }],
  },
  {
    file: "buoys",
    plan: null,
    about: "A folder of registers, one for each district: one set of tables, with a column for the file.",
    told: [
      "buoys   B-0204 goes from the east to the south, with all that it holds; a chain changed in the north",
      "checks  one added to B-0102",
      "slip: a file that is not there",
    ],
    edits: [
      { table: "buoys", find: ["no", "B-0204"], cells: { "in file": "suoth.json" } },
      { table: "buoys", find: ["no", "B-0107"], cells: { chain: "33.00" } },
      { table: "checks", cells: { buoys: "B-0102", on: "2026-08-14", by: "P-003", wear: "none" } },
    ],
    mended: [{ table: "buoys", find: ["no", "B-0204"], cells: { "in file": "south.json" } }],
  },
];

/** The chapter of rules: good rows are folded, the others are mended where they come back. */
export const RULES = {
  file: "dues.xml",
  also: ["dues.xsd"],
  plan: "dues-plan.yaml",
  about: "Light dues: debits and credits must be equal, totals follow, and the owner's schema says which accounts there are.",
  told: [
    "entries  the day of D-0102, a blank too many in a ship's name",
    "lines    D-0101 raised on both sides: its total follows; slips: D-0103 lowered on one side alone, an account of D-0104",
    "         that the owner's schema does not know",
  ],
  edits: [
    { table: "entries", find: ["no", "D-0102"], cells: { day: "2026-07-10", ship: "Nordhav  II " } },
    { table: "lines", find: ["debit", "412.50"], cells: { debit: "1012.50" } },
    { table: "lines", find: ["credit", "330.00"], cells: { credit: "930.00" } },
    { table: "lines", find: ["credit", "204.75"], cells: { credit: "104.75" } },
    { table: "lines", find: ["credit", "58.20"], cells: { account: "3011" } },
  ],
  mended: [
    { table: "lines", find: ["credit", "104.75"], cells: { credit: "204.75", account: "7790" } },
    { table: "lines", find: ["account", "3011"], cells: { account: "3010" } },
  ],
} as const satisfies Record<string, unknown> & { readonly edits: readonly DemoEdit[]; readonly mended: readonly DemoEdit[] };
