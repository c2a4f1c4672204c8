import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Empty, SplitPane } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { moment } from "../../kit/words";
import { AcademyShelves } from "./AcademyShelves";
import { AccountForm, useRoles } from "./AccountForm";
import { Doors } from "./Doors";

/** Accounts: who can sign in, and what opened or closed a door. */
export default function Accounts() {
  const [open, setOpen] = useState("");
  const roles = useRoles();
  const list = useQuery({ queryKey: ["accounts"], queryFn: () => unwrap(client.GET("/api/accounts")) });
  const log = useQuery({ queryKey: ["access log"], queryFn: () => unwrap(client.GET("/api/access-log")) });
  const all = list.data ?? [];
  const line = all.find((a) => a.id === open);
  return (
    <SplitPane
      left={
        <>
          <div className="flex items-baseline gap-3">
            <h1 className="flex-1">{tr("Academy")}</h1>
            <Button onClick={() => setOpen("new")}>{tr("Invite somebody")}</Button>
          </div>
          <AcademyShelves on={tr("Accounts")} />
          {list.error && <p className="text-clay">{list.error.message}</p>}
          <table className="grid-lines mt-2">
            <thead>
              <tr>
                <th>{tr("Who")}</th>
                <th>{tr("Signs in as")}</th>
                <th>{tr("Roles")}</th>
                <th>{tr("State")}</th>
                <th>{tr("Last signed in")}</th>
              </tr>
            </thead>
            <tbody>
              {all.map((a) => (
                <tr key={a.id} data-on={a.id === open}>
                  <td>
                    <button type="button" className="link" onClick={() => setOpen(a.id)}>
                      {a.name}
                    </button>
                  </td>
                  <td>{a.sign_in}</td>
                  <td>{a.roles.join(", ")}</td>
                  <td className={a.state === "closed" ? "text-soft" : a.state === "invited" ? "text-lake" : ""}>
                    {a.state}
                    {a.factor && tr(", second factor")}
                  </td>
                  <td className="num whitespace-nowrap">{a.seen ? moment(a.seen) : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Doors />
          <h2 className="mt-5">{tr("What opened or closed a door")}</h2>
          {log.data?.length === 0 && (
            <p className="text-soft">{tr("Sign-ins, changes of accounts and readings of health notes appear here.")}</p>
          )}
          <table className="grid-lines mt-1">
            <tbody>
              {(log.data ?? []).slice(0, 60).map((l, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: lines have no name of their own and are not moved
                <tr key={i}>
                  <td className="num whitespace-nowrap text-soft">{moment(l.at)}</td>
                  <td>{l.who}</td>
                  <td>{l.what}</td>
                  <td className="text-soft">{l.address}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      }
      right={
        open ? (
          <AccountForm key={open} line={line} onDone={() => setOpen("")} />
        ) : (
          <Empty title={tr("Choose an account, or invite somebody")}>
            <p>{tr("An invitation opens once, within three days. Without a mail server you hand the address over yourself.")}</p>
            <table className="grid-lines">
              <tbody>
                {roles.map(({ role: r, means: what }) => (
                  <tr key={r}>
                    <td className="font-semibold whitespace-nowrap text-ink">{r}</td>
                    <td>{what}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </Empty>
        )
      }
    />
  );
}
