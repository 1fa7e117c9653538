/** The tables of the file, nested as its records are. */
import type { Compared, Shape } from "hatch-fold";
import type { Sheet } from "./protocol";

interface Props {
  readonly shape: Shape;
  readonly sheets: readonly Sheet[];
  readonly current: number;
  readonly compared: Compared | null;
  choose(index: number): void;
}

export function ShapePane({ shape, sheets, current, compared, choose }: Props) {
  const depth = (name: string): number => {
    const inside = shape.kinds.find((kind) => kind.name === name)?.inside ?? null;
    return inside === null ? 0 : 1 + depth(inside);
  };
  const touched = (name: string) => compared?.changes.filter((change) => change.table === name).length ?? 0;
  return (
    <nav aria-label="Tables">
      <h2>Tables</h2>
      {sheets.map((sheet, i) => (
        <button
          key={sheet.name}
          aria-current={i === current}
          style={{ paddingInlineStart: `${0.7 + depth(sheet.name)}rem` }}
          onClick={() => choose(i)}
        >
          <span>{sheet.name}</span>
          {touched(sheet.name) > 0 && <em title="changes">{touched(sheet.name)}</em>}
          <small>{sheet.rows.length}</small>
        </button>
      ))}
      {shape.remarks.length > 0 && (
        <>
          <h2>Worth a look</h2>
          <ul>
            {shape.remarks.map((remark, i) => (
              <li key={i}>
                <b>
                  {remark.kind} {remark.path}
                </b>{" "}
                {remark.message}
              </li>
            ))}
          </ul>
        </>
      )}
    </nav>
  );
}
