import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { tr } from "../../kit/tr";
import { moment } from "../../kit/words";

type Kind = "technique" | "position" | "variant set" | "fork table" | "settings";

/** History lists every state of a record, shows one beside what it is now, and restores it. */
export function History({ kind, id, onClose }: { kind: Kind; id: string; onClose: () => void }) {
  const [edit, setEdit] = useState("");
  const list = useQuery({
    queryKey: ["history", kind, id],
    queryFn: () => unwrap(client.GET("/api/records/{kind}/{id}/history", { params: { path: { kind, id } } })),
  });
  return (
    <section aria-label={tr("History")} className="my-3 border-y-[1.5px] border-ink bg-paper px-3 py-2">
      <div className="flex items-baseline">
        <h2 className="flex-1">{tr("History")}</h2>
        <button type="button" className="link text-[12.5px]" onClick={onClose}>
          {tr("Close history")}
        </button>
      </div>
      {list.error && <p className="text-clay">{list.error.message}</p>}
      <table className="grid-lines">
        <thead>
          <tr>
            <th className="w-36">{tr("When")}</th>
            <th className="w-32">{tr("Who")}</th>
            <th>{tr("What")}</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {list.data?.map((s) => (
            <tr key={s.edit} data-on={s.edit === edit}>
              <td className="num">{moment(s.at)}</td>
              <td>{s.by}</td>
              <td>
                {s.summary}
                {s.current && <b className="text-moss"> {tr("· as it is now")}</b>}
                {s.gone && <span className="text-clay"> {tr("· taken away")}</span>}
              </td>
              <td className="text-right">
                <button type="button" className="link text-[12.5px]" onClick={() => setEdit(s.edit === edit ? "" : s.edit)}>
                  {s.edit === edit ? tr("Close") : tr("Read")}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {edit && <State kind={kind} id={id} edit={edit} onDone={() => setEdit("")} />}
    </section>
  );
}

function State({ kind, id, edit, onDone }: { kind: Kind; id: string; edit: string; onDone: () => void }) {
  const may = useMay();
  const path = { kind, id, edit };
  const page = useQuery({
    queryKey: ["history", kind, id, edit],
    queryFn: () => unwrap(client.GET("/api/records/{kind}/{id}/history/{edit}", { params: { path } })),
  });
  const restore = useAction(
    (_: undefined) => unwrap(client.POST("/api/records/{kind}/{id}/history/{edit}/restore", { params: { path } })),
    () => tr("Restored the earlier state."),
    onDone,
  );
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!page.data) return null;
  const marks: Record<string, [string, string, string]> = {
    both: [" ", "", ""],
    then: ["−", "text-clay", `${tr("only in that state:")} `],
    now: ["+", "text-moss", `${tr("only now:")} `],
  };
  return (
    <div className="mt-2">
      <p className="text-[12.5px] text-soft">{tr("Lines marked − stood only then; lines marked + stand only now.")}</p>
      <pre className="max-h-96 overflow-auto border border-hair bg-leaf p-2 font-sans text-[13px] whitespace-pre-wrap">
        {page.data.lines.map((l, i) => {
          const [mark, colour, said] = marks[l.in] ?? ["", "", ""];
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines of a text that does not move
            <span key={i} className={`block ${colour}`}>
              <span aria-hidden="true">{mark} </span>
              {said && <span className="sr-only">{said}</span>}
              {l.text}
            </span>
          );
        })}
      </pre>
      {restore.error && <p className="text-clay">{restore.error.message}</p>}
      {may("restore-record") && !page.data.current && !page.data.gone && (
        <Button look="main" className="mt-2" disabled={restore.isPending} onClick={() => restore.mutate(undefined)}>
          {tr("Restore this state")}
        </Button>
      )}
    </div>
  );
}
