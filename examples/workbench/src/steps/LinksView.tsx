/** Links between two tables: pick a record and tick those that it is linked with, from either side; or all of them as a cross table. */
import { useEffect, useState } from "react";
import { ask } from "../library";
import type { Links, TableInfo } from "../protocol";
import { setLink, useStore } from "../store";
import { Tick } from "../ui/Tick";

/** A cross table larger than this is no help. */
const MOST_ACROSS = 120;

interface Props {
  readonly table: TableInfo;
  readonly isCross: boolean;
}

export function LinksView({ table: { name }, isCross }: Props) {
  const revision = useStore((state) => state.revision);
  const [links, setLinks] = useState<Links | null | undefined>();
  useEffect(() => {
    let isWanted = true;
    void ask("links", name).then((found) => isWanted && setLinks(found));
    return () => {
      isWanted = false;
    };
  }, [name, revision]);
  if (links === undefined) return <p className="empty">Looking…</p>;
  if (links === null) return <p className="empty">There are too many records to be seen as links.</p>;
  const linked = new Map(links.pairs.map((pair) => [`${pair.a}\n${pair.b}`, pair]));
  return isCross ? <Cross name={name} links={links} linked={linked} /> : <Sides name={name} links={links} linked={linked} />;
}

interface ViewProps {
  readonly name: string;
  readonly links: Links;
  readonly linked: ReadonlyMap<string, Links["pairs"][number]>;
}

function Sides({ name, links, linked }: ViewProps) {
  const [isTurned, setTurned] = useState(false);
  const [chosen, setChosen] = useState("");
  const [typed, setTyped] = useState("");
  const [isOnly, setOnly] = useState(false);
  const [from, to] = isTurned ? [links.other, links.one] : [links.one, links.other];
  const idOf = (key: string, other: string): string => (isTurned ? `${other}\n${key}` : `${key}\n${other}`);
  const countOf = (key: string): number => links.pairs.filter((pair) => (isTurned ? pair.b : pair.a) === key).length;
  const record = from.records.find(({ key }) => key === chosen) ?? from.records[0];
  const shown = to.records.filter(
    ({ key, label }) =>
      `${key} ${label}`.toLowerCase().includes(typed.toLowerCase()) && (!isOnly || linked.has(idOf(record?.key ?? "", key))),
  );
  return (
    <div className="links">
      <section aria-label={from.name}>
        <div className="tools">
          <h3>{from.name}</h3>
          <button onClick={() => (setTurned(!isTurned), setChosen(""))}>From the other side</button>
        </div>
        <ul className="choose">
          {from.records.map(({ key, label }) => (
            <li key={key}>
              <button aria-current={key === record?.key ? "true" : undefined} onClick={() => setChosen(key)}>
                <span>
                  <b>{key}</b> {label}
                </span>
                <small>{countOf(key)}</small>
              </button>
            </li>
          ))}
        </ul>
      </section>
      {record !== undefined && (
        <section aria-label={`${to.name} of ${record.key}`}>
          <div className="tools">
            <h3>
              {to.name} of {record.key} {record.label}
            </h3>
            <label>
              Find <input type="search" value={typed} onChange={(event) => setTyped(event.target.value)} />
            </label>
            <label>
              <input type="checkbox" checked={isOnly} onChange={(event) => setOnly(event.target.checked)} /> linked only
            </label>
          </div>
          <ul className="values">
            {shown.map(({ key, label }) => {
              const pair = linked.get(idOf(record.key, key));
              return (
                <li key={key}>
                  <label>
                    <Tick
                      isOn={pair !== undefined}
                      set={(isOn) => (isTurned ? setLink(name, key, record.key, isOn) : setLink(name, record.key, key, isOn))}
                    />
                    <span>
                      <b>{key}</b> {label}
                    </span>
                    <small>{pair === undefined ? "" : pair.isNew ? "+ new" : pair.count > 1 ? `${pair.count} rows` : ""}</small>
                  </label>
                </li>
              );
            })}
          </ul>
        </section>
      )}
    </div>
  );
}

function Cross({ name, links: { one, other }, linked }: ViewProps) {
  if (other.records.length > MOST_ACROSS || one.records.length > 10 * MOST_ACROSS)
    return <p className="empty">There are too many records for a cross table: look at them as links.</p>;
  return (
    <div className="cross scroll" tabIndex={0} role="region" aria-label={`${one.name} and ${other.name}`}>
      <table>
        <thead>
          <tr>
            <th scope="col">{one.name}</th>
            {other.records.map(({ key, label }) => (
              <th key={key} scope="col" title={label}>
                {key}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {one.records.map(({ key, label }) => (
            <tr key={key}>
              <th scope="row">
                {key} <small>{label}</small>
              </th>
              {other.records.map((record) => {
                const pair = linked.get(`${key}\n${record.key}`);
                return (
                  <td key={record.key} className={pair?.isNew === true ? "new" : ""}>
                    <Tick
                      label={`${key} ${label} and ${record.key} ${record.label}`}
                      isOn={pair !== undefined}
                      set={(isOn) => setLink(name, key, record.key, isOn)}
                    />
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
