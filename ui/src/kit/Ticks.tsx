import type { ReactNode } from "react";

/** Ticks is a list of things, some of them chosen. */
export function Ticks(props: {
  label: string;
  all: { id: string; name: ReactNode }[];
  chosen: string[];
  onChange: (chosen: string[]) => void;
  /** One under the other in place of side by side. */
  stacked?: boolean;
  className?: string;
  error?: string;
}) {
  const { chosen, onChange } = props;
  return (
    <fieldset className={props.className}>
      <legend className="cap">{props.label}</legend>
      {props.all.map((x) => (
        <label key={x.id} className={`mr-3 text-[13.5px] ${props.stacked ? "block" : ""}`}>
          <input
            type="checkbox"
            checked={chosen.includes(x.id)}
            onChange={() => onChange(chosen.includes(x.id) ? chosen.filter((id) => id !== x.id) : [...chosen, x.id])}
          />{" "}
          {x.name}
        </label>
      ))}
      {props.error && <p className="text-[12.5px] text-clay">{props.error}</p>}
    </fieldset>
  );
}
