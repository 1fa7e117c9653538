/** The first rows of a table, as the plan at the side would have them. */
import { useEffect, useState } from "react";
import { Shown } from "../grid/Shown";
import { ask, LibraryError } from "../library";
import type { SampleRows } from "../protocol";

interface Props {
  readonly plan: string;
  readonly table: string;
}

export function Sample({ plan, table }: Props) {
  const [sample, setSample] = useState<SampleRows | string | null>(null);
  useEffect(() => {
    let isWanted = true;
    const timer = setTimeout(() => {
      void ask("sample", plan, table).then(
        (rows) => isWanted && setSample(rows),
        (error: unknown) => {
          if (isWanted && error instanceof LibraryError)
            setSample(
              `${error.failure.line === undefined ? "" : `Line ${error.failure.line}: `}${error.failure.message}. ${error.failure.hint}`,
            );
        },
      );
    }, 400);
    return () => {
      isWanted = false;
      clearTimeout(timer);
    };
  }, [plan, table]);
  if (sample === null) return null;
  if (typeof sample === "string") return <p className="told faulty">{sample}</p>;
  return (
    <div className="scroll sample" tabIndex={0} role="region" aria-label={`First rows of ${table}`}>
      <table>
        <thead>
          <tr>
            {sample.titles.map((title) => (
              <th key={title} scope="col">
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sample.rows.map((cells, i) => (
            <tr key={i}>
              {cells.map((cell, column) => (
                <td key={column}>
                  <Shown text={cell} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
