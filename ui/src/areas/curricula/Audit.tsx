import type { ReactNode } from "react";
import { client, type S, take } from "../../api/client";
import { useDo, useMay } from "../../api/use";
import { Button } from "../../kit/Button";
import { Note } from "../../kit/Leaves";

const heads: Record<string, string> = { blocks: "Publishing waits for these", weakens: "These weaken it", notice: "Worth knowing" };

/** Audit says where the curriculum does not hold together, and offers the repair. */
export function Audit({ page, add }: { page: S["CurriculumPage"]; add: ReactNode }) {
  const groups = ["blocks", "weakens", "notice"].map((s) => ({ severity: s, found: page.findings.filter((f) => f.severity === s) }));
  const blocks = groups[0]?.found.length ?? 0;
  return (
    <>
      {add}
      <h2 className="mt-4">Audit</h2>
      <p role="status" className={blocks ? "font-semibold text-clay" : "font-semibold text-moss"}>
        {blocks
          ? `${blocks} ${blocks === 1 ? "finding keeps" : "findings keep"} it from being published.`
          : "Nothing keeps it from being published."}
      </p>
      {groups
        .filter((g) => g.found.length > 0)
        .map((g) => (
          <section key={g.severity} className="mt-2">
            <h3 className="border-b border-rule">
              {heads[g.severity]} <span className="num text-soft">{g.found.length}</span>
            </h3>
            {g.found.map((f) => (
              <Finding key={f.id} id={page.line.id} finding={f} />
            ))}
          </section>
        ))}
    </>
  );
}

function Finding({ id, finding }: { id: string; finding: S["CurriculumFinding"] }) {
  const may = useMay();
  const repair = useDo(
    () => take(client.POST("/api/curricula/{id}/repairs", { params: { path: { id } }, body: { finding: finding.id } })),
    () => `Repaired: ${finding.repair?.says}.`,
  );
  return (
    <Note tone={finding.severity === "blocks" ? "clay" : "lake"} title={`${finding.kind[0]?.toUpperCase()}${finding.kind.slice(1)}.`}>
      {finding.cause}
      {finding.repair && may("take-audit-repair") && (
        <div className="mt-1">
          <Button
            look={finding.severity === "blocks" ? "main" : "plain"}
            disabled={repair.isPending}
            onClick={() => repair.mutate(undefined)}
          >
            {finding.repair.says}
          </Button>
        </div>
      )}
    </Note>
  );
}
