/** What came back from a spreadsheet: what was healed, what is noted, what is wrong. */
import type { BroughtBack } from "../protocol";
import { useStore, goTo, showRow } from "../store";
import { Dialog } from "../ui/Dialog";

export function BroughtDialog({ brought: { message, healed, problems, notes } }: { readonly brought: BroughtBack }) {
  const close = () => useStore.setState({ brought: null });
  return (
    <Dialog title="Brought back" about={message} close={close}>
      {healed.length > 0 && (
        <>
          <h3>
            Healed:{" "}
            {healed.length === 1 ? "one cell that the spreadsheet had damaged" : `${healed.length} cells that the spreadsheet had damaged`}
          </h3>
          <ul className="lines">
            {healed.slice(0, 50).map(({ table, row, column, found, restored, why }) => (
              <li key={`${table} ${row} ${column}`}>
                {table} row {row}, {column}: <del>{found}</del> → <ins>{restored}</ins> <small>{why}</small>
              </li>
            ))}
          </ul>
        </>
      )}
      {problems.length > 0 && (
        <>
          <h3>To be mended: {problems.length}</h3>
          <ul className="lines">
            {problems.slice(0, 50).map(({ table, row, column, message: said, hint }) => (
              <li key={`${table} ${row} ${column} ${said}`}>
                <button
                  className="plain"
                  onClick={() => {
                    close();
                    void showRow(table, row, column);
                  }}
                >
                  {table} row {row} {column}
                </button>{" "}
                {said} <small>{hint}</small>
              </li>
            ))}
          </ul>
        </>
      )}
      {notes.length > 0 && (
        <>
          <h3>Noted</h3>
          <ul className="lines">
            {notes.map(({ message: said }) => (
              <li key={said}>{said}</li>
            ))}
          </ul>
        </>
      )}
      <footer>
        <button
          className="main"
          onClick={() => {
            close();
            goTo("Compare");
          }}
        >
          See what changes
        </button>
      </footer>
    </Dialog>
  );
}
