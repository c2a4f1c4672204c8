import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, unwrap } from "../../api/client";
import { Note, SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { AcademyShelves } from "../academy/AcademyShelves";
import { Step, type StepID } from "./steps";

/** Begin goes through what an academy needs before its first class, in the order of the work. Each step can be left and come back to. */
export default function Begin() {
  const [chosen, choose] = useState<StepID>();
  const page = useQuery({ queryKey: ["begin"], queryFn: () => unwrap(client.GET("/api/begin")) });
  if (page.error) return <p className="p-5 text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  const next = p.steps.find((s) => !s.done && !s.skips) ?? p.steps[p.steps.length - 1];
  const open = chosen ?? next?.id ?? "library";
  const done = p.steps.filter((s) => s.done).length;
  return (
    <SplitPane
      wide="right"
      left={
        <>
          <h1>{tr("Begin")}</h1>
          <AcademyShelves on={tr("Begin")} />
          <p className="text-soft">
            {tr("From nothing to the first class: {{done}} of {{steps}} done. Skip what can wait; all of it stays where you leave it.", {
              done,
              steps: p.steps.length,
            })}
          </p>
          <ol className="mt-3">
            {p.steps.map((s, i) => (
              <li key={s.id} className="border-b border-hair">
                <button
                  type="button"
                  aria-current={s.id === open ? "step" : undefined}
                  className={`flex w-full items-baseline gap-3 py-1.5 text-left ${s.id === open ? "bg-wash" : "hover:bg-wash"}`}
                  onClick={() => choose(s.id)}
                >
                  <span aria-hidden="true" className={`w-6 text-right ${s.done ? "text-moss" : "text-soft"}`}>
                    {s.done ? "✓" : i + 1}
                  </span>
                  <span className="flex-1">
                    <span className="sr-only">{s.done ? tr("done") : tr("to do")}: </span>
                    <b>{s.name}</b>
                    <span className="block text-[13px] text-soft">{s.has}</span>
                    {!s.done && s.missing && (
                      <span className={`block text-[13px] ${s.id === next?.id ? "text-clay" : "text-soft"}`}>{s.missing}</span>
                    )}
                  </span>
                </button>
              </li>
            ))}
          </ol>
          {p.tonight && (
            <Note title={tr("There is something to teach.")}>
              <Link className="link" to={`/mat/${p.tonight}`}>
                {tr("Open the next class sheet")}
              </Link>{" "}
              {tr("and print it.")}
            </Note>
          )}
        </>
      }
      right={<Step id={open} page={p} onNext={() => choose(undefined)} />}
    />
  );
}
