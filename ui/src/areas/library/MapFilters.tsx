import type { S } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { tr, word } from "../../kit/tr";
import type { Filter } from "./MapView";

export function Filters({
  page,
  filter,
  put,
  onClear,
}: {
  page: S["MapPage"];
  filter: Filter;
  put: (part: Filter) => void;
  onClear: () => void;
}) {
  return (
    <fieldset
      className="grid grid-cols-[repeat(7,minmax(0,1fr))_auto] items-end gap-2 max-lg:grid-cols-[repeat(auto-fit,minmax(110px,1fr))]"
      aria-label={tr("What is on the map")}
    >
      <Select label={tr("Required for")} value={filter.curriculum ?? ""} onChange={(e) => put({ curriculum: e.target.value || undefined })}>
        <option value="">{tr("all taught")}</option>
        {page.curricula.map((c) => (
          <option key={c.id} value={c.id}>
            {c.name}
          </option>
        ))}
      </Select>
      <Select label={tr("Passed by")} value={filter.student ?? ""} onChange={(e) => put({ student: e.target.value || undefined })}>
        <option value="">{tr("anybody")}</option>
        {page.students.map((c) => (
          <option key={c.id} value={c.id}>
            {c.name}
          </option>
        ))}
      </Select>
      {page.students.length > 0 && (
        <Select label={tr("Ways of")} value={filter.of ?? ""} onChange={(e) => put({ of: e.target.value || undefined })}>
          <option value="">{tr("not drawn")}</option>
          {page.tracks.length > 0 && <option value="everybody">{tr("everybody")}</option>}
          {page.tracks.map((t) => (
            <option key={t.id} value={`track/${t.id}`}>
              {t.name}
            </option>
          ))}
          {page.students.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
        </Select>
      )}
      <Select
        label={tr("Jacket")}
        value={filter.context ?? ""}
        onChange={(e) => put({ context: (e.target.value || undefined) as Filter["context"] })}
      >
        <option value="">{tr("either")}</option>
        <option value="gi">{tr("gi")}</option>
        <option value="no-gi">{tr("no-gi")}</option>
      </Select>
      <Select
        label={tr("Side of it")}
        value={filter.part ?? ""}
        onChange={(e) => put({ part: (e.target.value || undefined) as Filter["part"] })}
      >
        <option value="">{tr("both people")}</option>
        <option value="attack">{tr("attacker's")}</option>
        <option value="defend">{tr("defender's")}</option>
      </Select>
      <Select
        label={tr("Kind")}
        value={filter.kind?.[0] ?? ""}
        onChange={(e) => put({ kind: e.target.value ? [e.target.value] : undefined })}
      >
        <option value="">{tr("all kinds")}</option>
        {page.all_kinds.map((k) => (
          <option key={k} value={k}>
            {word(k)}
          </option>
        ))}
      </Select>
      <Input
        label={tr("Allowed at age")}
        type="number"
        min={0}
        max={99}
        value={filter.age ?? ""}
        onChange={(e) => put({ age: e.target.value ? Number(e.target.value) : undefined })}
      />
      <Button onClick={onClear} disabled={!page.filtered}>
        {tr("All of it")}
      </Button>
    </fieldset>
  );
}
