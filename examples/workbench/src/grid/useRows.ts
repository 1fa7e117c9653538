/** Windows of rows: those that are looked at come from the worker, and stay until something changes. */
import { useCallback, useEffect, useRef, useState } from "react";
import { ask } from "../library";
import type { RowInfo } from "../protocol";

const BLOCK = 64;

/** Gives the row at a place of the view; `undefined` while it is on its way. */
export function useRows(table: string, revision: number, first: number, last: number): (place: number) => RowInfo | undefined {
  const blocks = useRef(new Map<number, { revision: number; rows: readonly RowInfo[] }>());
  const [, redraw] = useState(0);
  const from = Math.floor(Math.max(0, first) / BLOCK);
  const to = Math.floor(Math.max(0, last) / BLOCK);
  useEffect(() => {
    blocks.current.clear();
  }, [table]);
  useEffect(() => {
    let isWanted = true;
    for (let block = from; block <= to; block++) {
      if (blocks.current.get(block)?.revision === revision) continue;
      void ask("window", table, block * BLOCK, (block + 1) * BLOCK).then(
        (rows) => {
          if (!isWanted) return;
          blocks.current.set(block, { revision, rows });
          // rows far away are asked for again
          if (blocks.current.size > 40) for (const one of blocks.current.keys()) if (Math.abs(one - block) > 20) blocks.current.delete(one);
          redraw((n) => n + 1);
        },
        () => undefined,
      );
    }
    return () => {
      isWanted = false;
    };
  }, [table, revision, from, to]);
  return useCallback((place) => blocks.current.get(Math.floor(place / BLOCK))?.rows[place % BLOCK], []);
}
