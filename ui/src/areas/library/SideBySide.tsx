import { useState } from "react";
import type { S } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";

/**
 * SideBySide shows two records section by section, and for each that differs asks whose words stay. The
 * record that stays is on the left.
 */
export function SideBySide(props: {
  pair: S["LikelyPair"];
  here: string;
  there: string;
  action: string;
  flipped?: boolean;
  onMerge: (sections: string[]) => void;
}) {
  const { pair, flipped } = props;
  const [taken, setTaken] = useState<string[]>([]);
  const differ = pair.sections.filter((s) => !s.same);
  const stays = flipped ? props.there : props.here;
  const goes = flipped ? props.here : props.there;
  return (
    <div className="my-2">
      <p>
        <b>{flipped ? props.here : tr("{{there}} and {{here}}", { there: props.there, here: props.here })}</b>
        <span className="text-soft">
          {" "}
          · {Math.round(pair.score * 100)} % · {pair.why.join("; ")}
        </span>
      </p>
      <table className="grid-lines mt-1">
        <thead>
          <tr>
            <th className="w-24">{tr("Section")}</th>
            <th>{tr("Stays: {{stays}}", { stays })}</th>
            <th>{tr("Goes: {{goes}}", { goes })}</th>
          </tr>
        </thead>
        <tbody>
          {differ.map((s) => {
            const other = taken.includes(s.section);
            const [keep, drop] = flipped ? [s.there, s.here] : [s.here, s.there];
            const cell = (text: string, on: boolean, whose: string, choose: () => void) => (
              <td className="w-[42%] align-top">
                <label className={`flex gap-2 ${on ? "" : "text-soft"}`}>
                  <input
                    type="radio"
                    name={`${pair.technique}-${s.section}`}
                    checked={on}
                    onChange={choose}
                    aria-label={`${s.section}: ${whose}`}
                  />
                  <span className="whitespace-pre-line">{text || "—"}</span>
                </label>
              </td>
            );
            return (
              <tr key={s.section}>
                <td className="align-top font-semibold">{s.section}</td>
                {cell(keep, !other, stays, () => setTaken(taken.filter((x) => x !== s.section)))}
                {cell(drop, other, goes, () => setTaken([...taken, s.section]))}
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-1 text-[12.5px] text-soft">
        {pair.sections.length - differ.length > 0 &&
          `${tr("The same in both: {{sections}}.", {
            sections: pair.sections
              .filter((s) => s.same)
              .map((s) => s.section)
              .join(", "),
          })} `}
        {tr("Names and what it loads are united; whatever spoke of the one that goes speaks of the one that stays.")}
      </p>
      <Button className="mt-1" onClick={() => props.onMerge(taken)}>
        {props.action}
      </Button>
    </div>
  );
}
