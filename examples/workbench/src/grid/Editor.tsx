/** Where a cell is written: several lines are possible, and where words are to be chosen from, they are offered. */
import { useEffect, useId, useLayoutEffect, useRef, useState } from "react";
import { ask } from "../library";
import type { ColumnInfo, Option } from "../protocol";

interface Props {
  readonly table: string;
  readonly column: number;
  readonly info: ColumnInfo;
  readonly text: string;
  /** It is what the cell says, and nobody has typed yet. */
  readonly isOwn: boolean;
  readonly style: React.CSSProperties;
  done(text: string | null, then: "down" | "right" | "stay"): void;
}

export function Editor({ table, column, info, text, isOwn, style, done }: Props) {
  const area = useRef<HTMLTextAreaElement>(null);
  const list = useId();
  const [value, setValue] = useState(text);
  const [offered, setOffered] = useState<readonly Option[]>([]);
  const [at, setAt] = useState(-1);
  const isLeft = useRef(false);
  const isChosen = info.choices.length > 0 || info.refers !== null;

  useLayoutEffect(() => {
    const element = area.current!;
    element.focus();
    element.setSelectionRange(text.length, text.length);
    // once, when it opens
  }, []);
  useEffect(() => {
    if (!isChosen) return;
    let isWanted = true;
    void ask("options", table, column, value === text && isOwn ? "" : value).then((found) => isWanted && setOffered(found));
    return () => {
      isWanted = false;
    };
  }, [isChosen, table, column, value, text, isOwn]);

  const leave = (said: string | null, then: "down" | "right" | "stay") => {
    if (isLeft.current) return;
    isLeft.current = true;
    done(said, then);
  };
  const onKeyDown = (event: React.KeyboardEvent<HTMLTextAreaElement>) => {
    event.stopPropagation();
    if (event.nativeEvent.isComposing) return;
    if (event.key === "Escape") {
      event.preventDefault();
      leave(null, "stay");
    } else if (event.key === "Enter" && event.altKey) {
      event.preventDefault();
      const { selectionStart: from, selectionEnd: to } = event.currentTarget;
      setValue(`${value.slice(0, from)}\n${value.slice(to)}`);
    } else if (event.key === "Enter") {
      event.preventDefault();
      leave(offered[at]?.value ?? value, "down");
    } else if (event.key === "Tab") {
      event.preventDefault();
      leave(offered[at]?.value ?? value, "right");
    } else if (offered.length > 0 && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      event.preventDefault();
      setAt((at + (event.key === "ArrowDown" ? 1 : -1) + offered.length) % offered.length);
    }
  };
  return (
    <div className="editor" role="row" style={style}>
      <div role="gridcell">
        <textarea
          ref={area}
          rows={Math.min(8, value.split("\n").length)}
          aria-label={`${info.title}: write`}
          aria-describedby={isChosen ? undefined : `${list}-how`}
          role={isChosen ? "combobox" : undefined}
          aria-expanded={isChosen ? offered.length > 0 : undefined}
          aria-controls={isChosen ? list : undefined}
          aria-activedescendant={at >= 0 ? `${list}-${at}` : undefined}
          value={value}
          onChange={(event) => {
            setValue(event.target.value);
            // words for what was written before are not to be chosen from
            setOffered([]);

            setAt(-1);
          }}
          onKeyDown={onKeyDown}
          onBlur={() => leave(value, "stay")}
          spellCheck={false}
        />
        <span id={`${list}-how`} hidden>
          Alt and Enter begin a new line.
        </span>
        {isChosen && offered.length > 0 && (
          <ul id={list} role="listbox" aria-label={`Words for ${info.title}`}>
            {offered.map(({ value: word, label }, i) => (
              <li
                key={word}
                id={`${list}-${i}`}
                role="option"
                aria-selected={i === at}
                onPointerDown={(event) => {
                  event.preventDefault();
                  leave(word, "stay");
                }}
              >
                <b>{word}</b> {label}
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
