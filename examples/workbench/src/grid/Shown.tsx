/** A cell's text as it stands: blanks at its ends, double ones and line breaks can be seen. */
export function Shown({ text }: { readonly text: string }) {
  if (!/^\s|\s$|\s\s|[\n\t\u00a0]/.test(text)) return <>{text}</>;
  const parts = text.match(/^\s+|\s+$|\s{2,}|[\n\t\u00a0]|[^\s]+|\s/g) ?? [];
  return (
    <>
      {parts.map((part, i) => {
        const isSeen = /\s/.test(part) && (i === 0 || i === parts.length - 1 || part.length > 1 || part !== " ");
        return isSeen ? (
          <span key={i} className={part.includes("\n") ? "seen break" : "seen"}>
            {part}
          </span>
        ) : (
          part
        );
      })}
    </>
  );
}
