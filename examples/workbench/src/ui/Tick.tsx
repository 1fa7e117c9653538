/** A tick box that shows at once what was asked for, and then what came of it. */
import { useEffect, useState } from "react";

interface Props {
  readonly isOn: boolean;
  readonly label?: string;
  /** Tells whether it was done. */
  set(isOn: boolean): Promise<unknown>;
}

export function Tick({ isOn, label, set }: Props) {
  const [shown, setShown] = useState(isOn);
  useEffect(() => setShown(isOn), [isOn]);
  return (
    <input
      type="checkbox"
      aria-label={label}
      checked={shown}
      onChange={(event) => {
        setShown(event.target.checked);
        void set(event.target.checked).then((done) => done === false && setShown(isOn));
      }}
    />
  );
}
