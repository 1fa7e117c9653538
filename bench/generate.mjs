// A deterministic JSON source of about `megabytes`: districts with stations, as somebody would indent it.
import { closeSync, openSync, writeSync } from "node:fs";

export function generate(path, megabytes) {
  const file = openSync(path, "w");
  let state = 12345;
  const random = (n) => {
    state = (Math.imul(state, 1103515245) + 12345) >>> 0;
    return (state >>> 8) % n;
  };
  const pick = (list) => list[random(list.length)];
  const stones = ["granite", "brick", "cast iron", "timber", "concrete"];
  let text = '{\n  "authority": "Coastal Lights",\n  "districts": [';
  let bytes = 0;
  let id = 0;
  for (let d = 0; bytes < megabytes * 1e6; d++) {
    text += `${d > 0 ? "," : ""}\n    {\n      "code": "D${String(d).padStart(5, "0")}",\n      "name": "District ${d}",\n      "stations": [`;
    for (let s = 0; s < 200; s++) {
      id++;
      const note = random(5) > 0 ? "null" : pick(['"said \\"fine\\" here"', '"wet, windy"', '"Ærø side"', '"two\\nlines"']);
      text += `${s > 0 ? "," : ""}
        {
          "code": "S${String(id).padStart(7, "0")}",
          "name": "Station ${id} ${pick(["north", "south", "east", "west"])}",
          "height": ${random(90)}.${random(10)}0,
          "status": "${pick(["L", "D"])}",
          "manned": ${random(3) === 0},
          "since": "19${10 + random(89)}-0${1 + random(9)}-1${random(10)}",
          "tower": { "stone": "${pick(stones)}", "storeys": ${1 + random(12)} },
          "note": ${note}
        }`;
    }
    text += "\n      ]\n    }";
    bytes += Buffer.byteLength(text);
    writeSync(file, text);
    text = "";
  }
  writeSync(file, "\n  ]\n}\n");
  closeSync(file);
}
