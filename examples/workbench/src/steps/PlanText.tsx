/** The plan's text in an editor for YAML; loaded when it is wanted. */
import { yaml } from "@codemirror/lang-yaml";
import { basicSetup, EditorView } from "codemirror";
import { useEffect, useRef } from "react";

interface Props {
  readonly text: string;
  /** A line that something is wrong with. */
  readonly line: number | undefined;
  change(text: string): void;
}

export default function PlanText({ text, line, change }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const told = useRef(change);
  told.current = change;
  useEffect(() => {
    const made = new EditorView({
      doc: text,
      parent: place.current!,
      extensions: [
        basicSetup,
        yaml(),
        EditorView.contentAttributes.of({ "aria-label": "The plan as YAML" }),
        EditorView.updateListener.of((update) => update.docChanged && told.current(update.state.doc.toString())),
      ],
    });
    made.scrollDOM.tabIndex = 0;
    made.scrollDOM.setAttribute("role", "region");
    made.scrollDOM.setAttribute("aria-label", "The plan, to be scrolled");
    view.current = made;
    return () => made.destroy();
    // made once; what comes later is put into it
  }, []);
  useEffect(() => {
    const made = view.current!;
    if (made.state.doc.toString() !== text) made.dispatch({ changes: { from: 0, to: made.state.doc.length, insert: text } });
  }, [text]);
  useEffect(() => {
    const made = view.current!;
    if (line === undefined || line > made.state.doc.lines) return;
    const { from, to } = made.state.doc.line(line);
    made.dispatch({ selection: { anchor: from, head: to }, effects: EditorView.scrollIntoView(from, { y: "center" }) });
  }, [line]);
  return <div className="yaml" ref={place} />;
}
