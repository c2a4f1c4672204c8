import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { client, type S, take } from "../../api/client";
import { useDo, useMay } from "../../api/use";
import { Belt } from "../../kit/Belt";
import { Button } from "../../kit/Button";
import { arrows, Empty, Leaves } from "../../kit/Leaves";
import { AddTechnique } from "./AddTechnique";
import { Audit } from "./Audit";

/** Curricula: what each rank asks for, and where it does not hold together. */
export default function Curricula() {
  const { id } = useParams();
  const list = useQuery({ queryKey: ["curricula"], queryFn: () => take(client.GET("/api/curricula")) });
  const open = id ?? list.data?.[0]?.id;
  const page = useQuery({
    queryKey: ["curriculum", open],
    enabled: !!open,
    queryFn: () => take(client.GET("/api/curricula/{id}", { params: { path: { id: open ?? "" } } })),
  });
  return (
    <Leaves
      prints="left"
      left={
        <>
          <Ranks list={list.data ?? []} open={open} />
          {page.error && <p className="text-clay">{page.error.message}</p>}
          {page.data && <Sheet page={page.data} />}
        </>
      }
      right={page.data ? <Audit page={page.data} add={<AddTechnique page={page.data} />} /> : <Empty title="Pick a rank" />}
    />
  );
}

function Ranks({ list, open }: { list: S["CurriculumLine"][]; open?: string }) {
  return (
    <nav aria-label="Curricula" className="mb-2 flex flex-wrap gap-x-5 gap-y-1">
      {list.map((c) => (
        <Link
          key={c.id}
          to={`/curricula/${c.id}`}
          aria-current={c.id === open ? "page" : undefined}
          className={`head text-[15px] no-underline ${c.id === open ? "border-b-[3px] border-lake font-bold" : "text-soft hover:text-ink"}`}
        >
          <Belt belt={c.belt} rank={c.rank} />
          {c.ladder}: {c.rank}
        </Link>
      ))}
    </nav>
  );
}

function Sheet({ page }: { page: S["CurriculumPage"] }) {
  const may = useMay();
  const publish = useDo(
    (published: boolean) => take(client.PUT("/api/curricula/{id}/state", { params: { path: { id: page.line.id } }, body: { published } })),
    (_, published) => (published ? `Published the curriculum for ${page.line.rank}.` : `Took back the curriculum for ${page.line.rank}.`),
  );
  const published = page.line.state === "published";
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3.5 gap-y-1">
        <h1>For {page.line.rank}</h1>
        <span className="cap">
          {page.line.count} requirements · version {page.line.version} · {page.line.state} · {page.line.students} students work on it
        </span>
        <span className="flex-1" />
        {may("publish-curriculum") && (
          <Button look={published ? "plain" : "main"} onClick={() => publish.mutate(!published)}>
            {published ? "Take back to draft" : "Publish"}
          </Button>
        )}
      </div>
      {publish.error && <p className="text-clay">{publish.error.message}</p>}
      <Matrix matrix={page.matrix} />
      <Requirements page={page} />
    </>
  );
}

function Matrix({ matrix }: { matrix: S["Matrix"] }) {
  const kinds = matrix.kinds.map((k, i) => ({ k, i })).filter(({ k }) => k !== "movement");
  return (
    <table className="grid-lines mt-2">
      <caption className="sr-only">Requirements by family of positions and kind of technique</caption>
      <thead>
        <tr>
          <th>Position</th>
          {kinds.map(({ k }) => (
            <th key={k}>{k}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {matrix.families.map((f, row) => (
          <tr key={f}>
            <td className="whitespace-nowrap">{f}</td>
            {kinds.map(({ k, i }) => {
              const n = matrix.cells[row]?.[i] ?? 0;
              return (
                <td key={k} className={`num ${n ? "font-bold" : "text-rule"}`}>
                  {n || "·"}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const rungs = ["met", "drilled", "passed", "live", "teaches"];

function Requirements({ page }: { page: S["CurriculumPage"] }) {
  const may = useMay();
  const set = useDo(
    (r: S["RequirementLine"]) =>
      take(
        client.PUT("/api/curricula/{id}/requirements/{technique}", {
          params: { path: { id: page.line.id, technique: r.technique } },
          body: { rung: r.rung, both_sides: r.both_sides, weight: r.weight },
        }),
      ),
    (_, r) => `${r.name}: ${r.rung}, ${r.both_sides ? "both sides" : "one side"}.`,
  );
  const remove = useDo(
    (r: S["RequirementLine"]) =>
      take(
        client.DELETE("/api/curricula/{id}/requirements/{technique}", { params: { path: { id: page.line.id, technique: r.technique } } }),
      ),
    (_, r) => `Took out ${r.name}.`,
  );
  const blocked = new Set(page.findings.filter((f) => f.severity === "blocks").map((f) => f.technique));
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
    <div onKeyDown={arrows} className="mt-4">
      <table className="grid-lines">
        <thead>
          <tr>
            <th>Technique</th>
            <th>Kind</th>
            <th>Family</th>
            <th>Rung</th>
            <th>Sides</th>
            <th className="text-right">Weight</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {page.requirements.map((r) => (
            <tr key={r.technique}>
              <td>
                <Link data-row to={`/library/${r.technique}`} className="no-underline hover:underline">
                  {r.name}
                </Link>
                {blocked.has(r.technique) && <b className="text-clay"> · see the audit</b>}
              </td>
              <td className="text-soft">{r.kind}</td>
              <td className="text-soft">{r.family}</td>
              <td>
                {may("set-requirement") ? (
                  <select
                    aria-label={`Rung of ${r.name}`}
                    className="rounded-sm border border-hair bg-transparent"
                    value={r.rung}
                    onChange={(e) => set.mutate({ ...r, rung: e.target.value as typeof r.rung })}
                  >
                    {rungs.map((x) => (
                      <option key={x}>{x}</option>
                    ))}
                  </select>
                ) : (
                  r.rung
                )}
              </td>
              <td>
                {r.sided ? (
                  <label className="flex gap-1.5">
                    <input
                      type="checkbox"
                      disabled={!may("set-requirement")}
                      checked={r.both_sides}
                      aria-label={`${r.name} on both sides`}
                      onChange={(e) => set.mutate({ ...r, both_sides: e.target.checked })}
                    />
                    both
                  </label>
                ) : (
                  <span className="text-soft">no sides</span>
                )}
              </td>
              <td className="num text-right">{r.weight}</td>
              <td className="text-right">
                {may("remove-requirement") && (
                  <button type="button" className="link text-[12.5px]" aria-label={`Take out ${r.name}`} onClick={() => remove.mutate(r)}>
                    Take out
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {page.requirements.length === 0 && <Empty title="Nothing is required yet">Add the first technique on the right.</Empty>}
    </div>
  );
}
