/** Text for a terminal: columns, sizes, values in one line. */
import stringWidth from "string-width";

/** Pads cells so that columns line up; the last column is not padded. `right` names columns of numbers. */
export function columns(rows: readonly (readonly string[])[], right: readonly number[] = [], gap = "  "): string[] {
  const widths: number[] = [];
  for (const row of rows) row.forEach((cell, i) => (widths[i] = Math.max(widths[i] ?? 0, stringWidth(cell))));
  return rows.map((row) =>
    row
      .map((cell, i) => {
        const space = " ".repeat(widths[i] - stringWidth(cell));
        if (right.includes(i)) return space + cell;
        return i === row.length - 1 ? cell : cell + space;
      })
      .join(gap)
      .trimEnd(),
  );
}

export function size(bytes: number): string {
  const units = ["bytes", "kB", "MB", "GB"];
  let value = bytes;
  let unit = 0;
  while (value >= 1000 && unit < units.length - 1) [value, unit] = [value / 1000, unit + 1];
  return `${unit === 0 ? value : value.toFixed(1)} ${units[unit]}`;
}

export function counted(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString("en")} ${n === 1 ? one : many}`;
}

/** A value in one line: line ends shown, long ones cut in the middle. */
export function oneLine(text: string, most = 40): string {
  const flat = text
    .replace(/\r\n?|\n/g, "⏎")
    .replace(/\t/g, "→")
    .replace(/\p{Cc}/gu, "·");
  const chars = [...flat];
  if (chars.length <= most) return flat;
  const tail = Math.floor(most / 4);
  return `${chars.slice(0, most - tail - 1).join("")}…${chars.slice(-tail).join("")}`;
}
