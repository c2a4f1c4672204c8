import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { Refusal } from "../../kit/Refusal";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { moment } from "../../kit/words";

/** useRoles are the roles the server knows, with what each is for. */
export function useRoles(): S["RoleLine"][] {
  return useQuery({ queryKey: ["roles"], queryFn: () => unwrap(client.GET("/api/roles")) }).data ?? [];
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
    () => tr("Invited {{signin}}.", { signin: w.sign_in }),
  );
  const again = useAction(
    (id: string) => unwrap(client.POST("/api/accounts/{id}/invitation", { params: { path: { id } } })),
    () => tr("Another invitation for {{signin}}.", { signin: w.sign_in }),
  );
  const change = useAction(
    (closed: boolean) => unwrap(client.PUT("/api/accounts/{id}", { params: { path: { id: line?.id ?? "" } }, body: { ...body, closed } })),
    (_, closed) => (closed ? tr("Closed {{signin}}.", { signin: w.sign_in }) : tr("Changed {{signin}}.", { signin: w.sign_in })),
    onDone,
  );
  const out = useAction(
    (id: string) => unwrap(client.DELETE("/api/accounts/{id}/sessions", { params: { path: { id } } })),
    () => tr("Signed {{signin}} out everywhere.", { signin: w.sign_in }),
  );
  const factor = useAction(
    (id: string) => unwrap(client.DELETE("/api/accounts/{id}/second-factor", { params: { path: { id } } })),
    () => tr("Removed the second factor of {{signin}}.", { signin: w.sign_in }),
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
      <h1>{line ? line.name : tr("Invite somebody")}</h1>
      {error && <Refusal error={error} />}
      {made && <Handed made={made} />}
      {!made && (
        <>
          {!person && (
            <Select label={tr("Whose account")} value={w.person ?? ""} onChange={(e) => put({ person: e.target.value || undefined })}>
              <option value="">{tr("nobody's: a place, such as the desk")}</option>
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
            label={tr("Signs in as")}
            readOnly={!!line}
            value={w.sign_in}
            error={error?.fields.sign_in}
            hint={line ? undefined : tr("A short name or an e-mail address, without spaces")}
            onChange={(e) => put({ sign_in: e.target.value })}
          />
          <Input
            label={tr("E-mail")}
            type="email"
            hint={tr("Where the invitation goes, and a letter when the password is forgotten")}
            value={w.email ?? ""}
            error={error?.fields.email}
            onChange={(e) => put({ email: e.target.value })}
          />
          <fieldset>
            <legend className="cap">{tr("Roles")}</legend>
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
              <legend className="cap">{tr("Whose page they see")}</legend>
              {children.length === 0 && <p className="text-soft">{tr("There are no minors yet.")}</p>}
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
            {line ? tr("Save account") : tr("Invite")}
          </Button>
        )}
        <Button onClick={onDone}>{made ? tr("Done") : tr("Cancel")}</Button>
      </div>
      {line && !made && (
        <div className="flex flex-wrap gap-4 border-t border-hair pt-2 text-[13px]">
          {line.state !== "closed" && (
            <button type="button" className="link" onClick={() => again.mutate(line.id)}>
              {line.state === "invited" ? tr("Invite again") : tr("Address for another password")}
            </button>
          )}
          <button type="button" className="link" onClick={() => out.mutate(line.id)}>
            {tr("Sign out everywhere")}
          </button>
          {line.factor && (
            <button type="button" className="link" onClick={() => factor.mutate(line.id)}>
              {tr("Remove second factor")}
            </button>
          )}
          <button type="button" className="link" onClick={() => change.mutate(line.state !== "closed")}>
            {line.state === "closed" ? tr("Open account again") : tr("Close account")}
          </button>
        </div>
      )}
    </form>
  );
}

export function Handed({ made }: { made: S["Invited"] }) {
  return (
    <Note title={made.to ? tr("A letter goes to {{to}}.", { to: made.to }) : tr("Hand this address over.")}>
      {tr("It opens once, until {{until}}, and is not shown again.", { until: moment(made.until) })}
      <code data-invitation className="my-1 block border border-hair bg-paper p-2 text-[12.5px] break-all">
        {made.address}
      </code>
      <Button onClick={() => void navigator.clipboard.writeText(made.address)}>{tr("Copy")}</Button>
    </Note>
  );
}
