// Deterministic sources of about `megabytes`: districts with stations, as somebody would write them in each format.
import { closeSync, openSync, writeSync } from "node:fs";

const STONES = ["granite", "brick", "cast iron", "timber", "concrete"];
const NOTES = ['said "fine" here', "wet, windy", "\u00c6r\u00f8 side", "two & two"];

/** A format's way with the same records. */
const WRITERS = {
  json: {
    open: '{\n  "authority": "Coastal Lights",\n  "districts": [',
    district: (d) => `${d > 0 ? "," : ""}\n    {\n      "code": "D${pad(d, 5)}",\n      "name": "District ${d}",\n      "stations": [`,
    station: (s, first) => `${first ? "" : ","}
        {
          "code": "S${s.code}",
          "name": ${JSON.stringify(s.name)},
          "height": ${s.height},
          "status": "${s.status}",
          "manned": ${s.manned},
          "since": "${s.since}",
          "tower": { "stone": "${s.stone}", "storeys": ${s.storeys} },
          "note": ${s.note === null ? "null" : JSON.stringify(s.note)}
        }`,
    end: "\n      ]\n    }",
    close: "\n  ]\n}\n",
  },
  xml: {
    open: '<?xml version="1.0" encoding="UTF-8"?>\n<authority name="Coastal Lights">',
    district: (d) => `\n  <district code="D${pad(d, 5)}" name="District ${d}">`,
    station: (s) => `
    <station code="S${s.code}" status="${s.status}" manned="${s.manned}">
      <name>${escape(s.name)}</name>
      <height>${s.height}</height>
      <since>${s.since}</since>
      <tower stone="${s.stone}" storeys="${s.storeys}"/>${s.note === null ? "" : `\n      <note>${escape(s.note)}</note>`}
    </station>`,
    end: "\n  </district>",
    close: "\n</authority>\n",
  },
  csv: {
    open: "district,code,name,height,status,manned,since,stone,storeys,note\r\n",
    district: () => "",
    station: (s, _first, d) =>
      `D${pad(d, 5)},S${s.code},${s.name},${s.height},${s.status},${s.manned},${s.since},${s.stone},${s.storeys},${s.note === null ? "" : /[",]/.test(s.note) ? `"${s.note.replaceAll('"', '""')}"` : s.note}\r\n`,
    end: "",
    close: "",
  },
  dat: {
    open: "",
    district: (d) => `01D${pad(d, 5)}District ${d}\n`,
    station: (s) =>
      `02S${s.code}${s.name.padEnd(28)}${s.height.padStart(7)} ${s.status}${s.since}${s.stone.padEnd(12)}${pad(s.storeys, 3)}${(s.note ?? "").padEnd(20)}\n`,
    end: "",
    close: "",
  },
  txt: {
    open: "",
    district: (d) => `DIS|D${pad(d, 5)}|District ${d}\n`,
    station: (s) => `STA|S${s.code}|${s.name}|${s.height}|${s.status}|${s.manned}|${s.since}|${s.stone}|${s.storeys}|${s.note ?? ""}\n`,
    end: "",
    close: "",
  },
};

function pad(n, width) {
  return String(n).padStart(width, "0");
}

function escape(text) {
  return text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");
}

/** `format` is the ending of the file's name. */
export function generate(path, megabytes, format = "json") {
  const file = openSync(path, "w");
  let state = 12345;
  const random = (n) => {
    state = (Math.imul(state, 1103515245) + 12345) >>> 0;
    return (state >>> 8) % n;
  };
  const pick = (list) => list[random(list.length)];
  const writer = WRITERS[format];
  let text = writer.open;
  let bytes = 0;
  let id = 0;
  for (let d = 0; bytes < megabytes * 1e6; d++) {
    text += writer.district(d);
    for (let s = 0; s < 200; s++) {
      id++;
      const station = {
        code: pad(id, 7),
        name: `Station ${id} ${pick(["north", "south", "east", "west"])}`,
        height: `${random(90)}.${random(10)}0`,
        status: pick(["L", "D"]),
        manned: random(3) === 0,
        since: `19${10 + random(89)}-0${1 + random(9)}-1${random(10)}`,
        stone: pick(STONES),
        storeys: 1 + random(12),
        note: random(5) > 0 ? null : pick(NOTES),
      };
      text += writer.station(station, s === 0, d);
    }
    text += writer.end;
    bytes += Buffer.byteLength(text);
    writeSync(file, text);
    text = "";
  }
  writeSync(file, writer.close);
  closeSync(file);
}
