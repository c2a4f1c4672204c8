import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Empty } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { date } from "../../kit/words";

/** Gaps gathers people who missed the same into as few groups as can be, each with a class it could go into. */
export function Gaps() {
  const page = useQuery({ queryKey: ["gaps"], queryFn: () => unwrap(client.GET("/api/ledger/gaps")) });
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  const p = page.data;
  if (!p) return null;
  if (p.groups.length === 0 && p.nobody.length === 0)
    return (
      <Empty title={tr("Nobody missed anything")}>
        {tr("Whoever missed a unit of the last {{weeks}} weeks that their next rank asks for stands here.", { weeks: p.weeks })}
      </Empty>
    );
  return (
    <>
      <p>
        {tr("{{people}} people missed something of the last {{weeks}} weeks that their next rank asks for:", {
          people: p.people,
          weeks: p.weeks,
        })}{" "}
        <b className="num">{p.groups.length}</b> {tr("groups serve them.")}{" "}
        <span className="text-soft">{p.proven ? tr("Fewer cannot.") : tr("Fewer than {{bound}} cannot.", { bound: p.bound })}</span>
      </p>
      <table className="grid-lines mt-2 w-full">
        <tbody>
          {p.groups.map((g) => (
            <Group key={`${g.unit} ${g.class}`} g={g} />
          ))}
        </tbody>
      </table>
      {p.nobody.length > 0 && (
        <section className="mt-3">
          <h2>{tr("No class fits")}</h2>
          <p className="text-soft">{p.nobody.map((n) => `${n.person}: ${n.unit}`).join("; ")}</p>
        </section>
      )}
    </>
  );
}

function Group({ g }: { g: S["GapGroup"] }) {
  const may = useMay();
  const station = useAction(
    (_: undefined) =>
      unwrap(
        client.POST("/api/classes/{id}/makeups", {
          params: { path: { id: g.session } },
          body: { unit: g.unit, people: g.people.map((x) => x.id) },
        }),
      ),
    () => tr("{{where}} on {{on}} has a station: {{name}}.", { where: g.where, on: date(g.on), name: g.name }),
  );
  const put = useAction(
    (_: undefined) =>
      unwrap(client.POST("/api/classes/{id}/units", { params: { path: { id: g.session } }, body: { unit: g.unit, kind: "teach" } })),
    () => tr("{{name}} is in {{where}} on {{on}}.", { name: g.name, where: g.where, on: date(g.on) }),
  );
  return (
    <tr className="align-top">
      <td className="w-52">
        <b>{g.name}</b>
        <span className="num block text-[12.5px] text-soft">{tr("{{minutes}} minutes", { minutes: g.minutes })}</span>
      </td>
      <td className="w-48">
        <Link className="link" to={`/mat/${g.session}`}>
          {date(g.on)}
        </Link>
        <span className="block text-[12.5px] text-soft">{g.where}</span>
      </td>
      <td>{g.people.map((x) => x.name).join(", ")}</td>
      <td className="w-44 text-right">
        {g.put === "unit" && <span className="text-moss">{tr("taught to all there")}</span>}
        {g.put === "station" && <span className="text-moss">{tr("has a station there")}</span>}
        {!g.put && may("add-makeup") && (
          <Button
            disabled={station.isPending}
            title={tr("They catch it up there; the others do what the class does")}
            onClick={() => station.mutate(undefined)}
          >
            {tr("As a station")}
            <span className="sr-only">{tr(": {{name}} in {{where}}", { name: g.name, where: g.where })}</span>
          </Button>
        )}
        {!g.put && may("add-unit-to-class") && (
          <Button className="mt-1" look="quiet" disabled={put.isPending} onClick={() => put.mutate(undefined)}>
            {tr("For the whole class")}
            <span className="sr-only">{tr(": {{name}} in {{where}}", { name: g.name, where: g.where })}</span>
          </Button>
        )}
        {[station, put].map(
          (x) =>
            x.error && (
              <p key={x.error.message} className="text-clay">
                {[x.error.message, ...Object.values(x.error.fields)].join(" ")}
              </p>
            ),
        )}
      </td>
    </tr>
  );
}
