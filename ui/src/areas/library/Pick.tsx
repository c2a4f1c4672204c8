import type { S } from "../../api/client";
import { Select } from "../../kit/Field";
import { tr } from "../../kit/tr";

/** PickTechnique chooses a technique by name; typing jumps to it. */
export function PickTechnique(props: {
  label: string;
  value: string;
  onChange: (id: string) => void;
  all: S["TechniqueLine"][];
  none?: string;
  error?: string;
}) {
  return (
    <Select label={props.label} value={props.value} error={props.error} onChange={(e) => props.onChange(e.target.value)}>
      {(props.none !== undefined || !props.value) && <option value="">{props.none ?? tr("Choose a technique")}</option>}
      {props.value && !props.all.some((t) => t.id === props.value) && <option value={props.value}>{props.value}</option>}
      {props.all.map((t) => (
        <option key={t.id} value={t.id}>
          {t.name}
        </option>
      ))}
    </Select>
  );
}

/** PickPlace chooses a position and which of the two people in it is meant. */
export function PickPlace(props: {
  label: string;
  value?: S["LibraryPlace"];
  onChange: (place: S["LibraryPlace"] | undefined) => void;
  positions: S["PositionLine"][];
  none?: string;
  error?: string;
}) {
  const { value } = props;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_110px] gap-2">
      <Select
        label={props.label}
        value={value?.position ?? ""}
        error={props.error}
        onChange={(e) => props.onChange(e.target.value ? { position: e.target.value, part: value?.part ?? "attack" } : undefined)}
      >
        <option value="">{props.none ?? tr("Choose a position")}</option>
        {[...new Set(props.positions.map((p) => p.family))].map((f) => (
          <optgroup key={f} label={f}>
            {props.positions
              .filter((p) => p.family === f)
              .map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
          </optgroup>
        ))}
      </Select>
      <Select
        label={tr("Part")}
        aria-label={tr("{{label}}: part", { label: props.label })}
        value={value?.part ?? "attack"}
        disabled={!value}
        onChange={(e) => value && props.onChange({ ...value, part: e.target.value })}
      >
        <option value="attack">{tr("attacker")}</option>
        <option value="defend">{tr("defender")}</option>
      </Select>
    </div>
  );
}
