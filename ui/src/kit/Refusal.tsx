import type { Trouble } from "../api/client";
import { tr } from "./tr";

/** Refusal says everything the server found, also what has no field on the page. */
export function Refusal({ error }: { error: Trouble }) {
  const all = Object.entries(error.fields);
  return (
    <div role="alert" className="my-2 border-l-[3px] border-clay pl-2.5">
      <b className="text-clay">{tr("Not saved.")} </b>
      {all.length === 0 && error.message}
      <ul>
        {all.map(([field, why]) => (
          <li key={field}>
            <b>{fieldWords(field)}:</b> {why}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** fieldWords turns key_points[1].faults[0].what into words. */
function fieldWords(field: string): string {
  return field
    .replace(/\[(\d+)\]/g, (_, n) => ` ${Number(n) + 1}`)
    .replaceAll("_", " ")
    .replaceAll(".", ", ");
}
