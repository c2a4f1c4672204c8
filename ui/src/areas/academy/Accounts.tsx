import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Empty, Note, SplitPane } from "../../kit/SplitPane";
import { moment } from "../../kit/words";
import { AcademyShelves } from "./AcademyShelves";
import { Doors } from "./Doors";

/** useRoles are the roles the server knows, with what each is for. */
function useRoles(): S["RoleLine"][] {
  return useQuery({ queryKey: ["roles"], queryFn: () => unwrap(client.GET("/api/roles")) }).data ?? [];
}

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
            <h1 className="flex-1">Academy</h1>
            <Button onClick={() => setOpen("new")}>Invite somebody</Button>
          </div>
          <AcademyShelves on="Accounts" />
          {list.error && <p className="text-clay">{list.error.message}</p>}
          <table className="grid-lines mt-2">
            <thead>
              <tr>
                <th>Who</th>
                <th>Signs in as</th>
                <th>Roles</th>
                <th>State</th>
                <th>Last signed in</th>
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
                    {a.factor && ", second factor"}
                  </td>
                  <td className="num whitespace-nowrap">{a.seen ? moment(a.seen) : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Doors />
          <h2 className="mt-5">What opened or closed a door</h2>
          {log.data?.length === 0 && <p className="text-soft">Sign-ins, changes of accounts and readings of health notes appear here.</p>}
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
          <Empty title="Choose an account, or invite somebody">
            <p>An invitation opens once, within three days. Without a mail server you hand the address over yourself.</p>
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

/** AccountForm invites somebody, or changes what an account may do. */
export function AccountForm({ line, person, onDone }: { line?: S["AccountLine"]; person?: S["PersonRow"]; onDone: () => void }) {
  const people = useQuery({ queryKey: ["people"], queryFn: () => unwrap(client.GET("/api/people")) });
  const roles = useRoles();
  const [w, setW] = useState<S["Wish"]>({
    sign_in: line?.sign_in ?? "",
    person: line?.person ?? person?.id,
    email: line?.email ?? "",
    roles: line?.roles ?? (person?.coach ? ["coach"] : person?.student ? ["student"] : []),
    wards: line?.wards.map((x) => x.id) ?? [],
  });
  const put = (part: Partial<S["Wish"]>) => setW({ ...w, ...part });
  const body = {
    ...w,
    person: w.person || undefined,
    email: w.email || undefined,
    wards: w.roles.includes("guardian") ? w.wards : undefined,
  };
  const invite = useAction(
    () => unwrap(client.POST("/api/accounts", { body })),
    () => `Invited ${w.sign_in}.`,
  );
  const again = useAction(
    (id: string) => unwrap(client.POST("/api/accounts/{id}/invitation", { params: { path: { id } } })),
    () => `Another invitation for ${w.sign_in}.`,
  );
  const change = useAction(
    (closed: boolean) => unwrap(client.PUT("/api/accounts/{id}", { params: { path: { id: line?.id ?? "" } }, body: { ...body, closed } })),
    (_, closed) => (closed ? `Closed ${w.sign_in}.` : `Changed ${w.sign_in}.`),
    onDone,
  );
  const out = useAction(
    (id: string) => unwrap(client.DELETE("/api/accounts/{id}/sessions", { params: { path: { id } } })),
    () => `Signed ${w.sign_in} out everywhere.`,
  );
  const factor = useAction(
    (id: string) => unwrap(client.DELETE("/api/accounts/{id}/second-factor", { params: { path: { id } } })),
    () => `Removed the second factor of ${w.sign_in}.`,
  );
  const made = invite.data ?? again.data;
  const error = invite.error ?? change.error;
  const children = (people.data ?? []).filter((p) => p.minor && !p.archived);
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (line) change.mutate(line.state === "closed");
        else invite.mutate(undefined);
      }}
    >
      <h1>{line ? line.name : "Invite somebody"}</h1>
      {error && <Refusal error={error} />}
      {made && <Handed made={made} />}
      {!made && (
        <>
          {!person && (
            <Select label="Whose account" value={w.person ?? ""} onChange={(e) => put({ person: e.target.value || undefined })}>
              <option value="">nobody's: a place, such as the desk</option>
              {(people.data ?? [])
                .filter((p) => !p.archived)
                .map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.name}
                  </option>
                ))}
            </Select>
          )}
          <Input
            label="Signs in as"
            readOnly={!!line}
            value={w.sign_in}
            error={error?.fields.sign_in}
            hint={line ? undefined : "A short name or an e-mail address, without spaces"}
            onChange={(e) => put({ sign_in: e.target.value })}
          />
          <Input
            label="E-mail"
            type="email"
            hint="Where the invitation goes, and a letter when the password is forgotten"
            value={w.email ?? ""}
            error={error?.fields.email}
            onChange={(e) => put({ email: e.target.value })}
          />
          <fieldset>
            <legend className="cap">Roles</legend>
            {roles.map(({ role: r, means: what }) => (
              <label key={r} className="flex gap-2 py-0.5">
                <input
                  type="checkbox"
                  checked={w.roles.includes(r)}
                  onChange={(e) => put({ roles: w.roles.filter((x) => x !== r).concat(e.target.checked ? [r] : []) })}
                />
                <span>
                  {r} <span className="text-[12.5px] text-soft">{what}</span>
                </span>
              </label>
            ))}
            {error?.fields.roles && <p className="text-[12.5px] text-clay">{error.fields.roles}</p>}
          </fieldset>
          {w.roles.includes("guardian") && (
            <fieldset>
              <legend className="cap">Whose page they see</legend>
              {children.length === 0 && <p className="text-soft">There are no minors yet.</p>}
              {children.map((p) => (
                <label key={p.id} className="flex gap-2">
                  <input
                    type="checkbox"
                    checked={(w.wards ?? []).includes(p.id)}
                    onChange={(e) => put({ wards: (w.wards ?? []).filter((x) => x !== p.id).concat(e.target.checked ? [p.id] : []) })}
                  />
                  {p.name}
                </label>
              ))}
              {error?.fields.wards && <p className="text-[12.5px] text-clay">{error.fields.wards}</p>}
            </fieldset>
          )}
        </>
      )}
      <div className="flex flex-wrap gap-2">
        {!made && (
          <Button type="submit" look="main" disabled={invite.isPending || change.isPending}>
            {line ? "Save account" : "Invite"}
          </Button>
        )}
        <Button onClick={onDone}>{made ? "Done" : "Cancel"}</Button>
      </div>
      {line && !made && (
        <div className="flex flex-wrap gap-4 border-t border-hair pt-2 text-[13px]">
          {line.state !== "closed" && (
            <button type="button" className="link" onClick={() => again.mutate(line.id)}>
              {line.state === "invited" ? "Invite again" : "Address for another password"}
            </button>
          )}
          <button type="button" className="link" onClick={() => out.mutate(line.id)}>
            Sign out everywhere
          </button>
          {line.factor && (
            <button type="button" className="link" onClick={() => factor.mutate(line.id)}>
              Remove second factor
            </button>
          )}
          <button type="button" className="link" onClick={() => change.mutate(line.state !== "closed")}>
            {line.state === "closed" ? "Open account again" : "Close account"}
          </button>
        </div>
      )}
    </form>
  );
}

function Handed({ made }: { made: S["Invited"] }) {
  return (
    <Note title={made.to ? `A letter goes to ${made.to}.` : "Hand this address over."}>
      It opens once, until {moment(made.until)}, and is not shown again.
      <code data-invitation className="my-1 block border border-hair bg-paper p-2 text-[12.5px] break-all">
        {made.address}
      </code>
      <Button onClick={() => void navigator.clipboard.writeText(made.address)}>Copy</Button>
    </Note>
  );
}
