import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { Proposal } from "../season/Repair";

/** Unreached offers, for what the class did not come to, the repaired plan: seen first, taken with one press. */
export function Unreached({ page }: { page: S["SessionPage"] }) {
  const may = useMay();
  if (page.unreached.length === 0) return null;
  return (
    <section aria-label={tr("Not reached")} className="mt-3 flex flex-col gap-2">
      {page.unreached.map((u) =>
        may("take-repair") ? (
          <Mend key={`${u.season} ${u.unit}`} u={u} />
        ) : (
          <Note key={`${u.season} ${u.unit}`} title={tr("{{name}} was not reached.", { name: u.name })}>
            {tr("The head instructor is offered a repair of the plan with the next classes.")}
          </Note>
        ),
      )}
    </section>
  );
}

function Mend({ u }: { u: S["UnreachedUnit"] }) {
  const params = { path: { id: u.season } };
  const body: S["Happening"] = { kind: "not_reached", week: u.week, class: u.class, unit: u.unit };
  const propose = useAction((_: undefined) => unwrap(client.POST("/api/seasons/{id}/repairs/proposals", { params, body })));
  const take = useAction(
    (_: undefined) => unwrap(client.POST("/api/seasons/{id}/repairs", { params, body })),
    () => tr("{{summary}} and repaired the plan.", { summary: propose.data?.summary ?? u.name }),
  );
  return (
    <Note title={tr("{{name}} was not reached.", { name: u.name })}>
      {!propose.data && (
        <Button className="ml-2" disabled={propose.isPending} onClick={() => propose.mutate(undefined)}>
          {tr("Show the repair")}
        </Button>
      )}
      {propose.error && <p className="text-clay">{propose.error.message}</p>}
      {propose.data && (
        <>
          <Proposal p={propose.data} />
          <Button look="main" className="mt-2" disabled={take.isPending} onClick={() => take.mutate(undefined)}>
            {tr("Repair plan")}
          </Button>
        </>
      )}
      {take.error && <p className="text-clay">{take.error.message}</p>}
    </Note>
  );
}
