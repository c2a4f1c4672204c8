import { useState } from "react";
import { useAction, useMay } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";

const heads: Record<string, string> = {
  blocks: tr("Publishing waits for these"),
  weakens: tr("These weaken it"),
  notice: tr("Worth knowing"),
};

/** Audit says where the curriculum does not hold together, and offers the repair; what is accepted with a reason is quiet. */
export function Audit({ page }: { page: S["CurriculumPage"] }) {
  const loud = page.findings.filter((f) => !f.accepted);
  const quiet = page.findings.filter((f) => f.accepted);
  const groups = ["blocks", "weakens", "notice"].map((s) => ({ severity: s, found: loud.filter((f) => f.severity === s) }));
  const blocks = groups[0]?.found.length ?? 0;
  return (
    <section aria-label={tr("Audit")}>
      <h2 className="mt-3">{tr("Audit")}</h2>
      <p role="status" className={blocks ? "font-semibold text-clay" : "font-semibold text-moss"}>
        {blocks
          ? tr("{{blocks}} {{blocks2}} it from being published.", {
              blocks,
              blocks2: blocks === 1 ? tr("finding keeps") : tr("findings keep"),
            })
          : loud.length
            ? tr("Nothing keeps it from being published.")
            : tr("Nothing keeps it from being published. The audit is quiet.")}
      </p>
      {groups
        .filter((g) => g.found.length > 0)
        .map((g) => (
          <details key={g.severity} open={g.severity !== "notice"} className="mt-1">
            <summary className="head cursor-pointer border-b border-rule text-[15px] font-semibold">
              {heads[g.severity]} <span className="num text-soft">{g.found.length}</span>
            </summary>
            {g.found.map((f) => (
              <Finding key={f.id} page={page} finding={f} />
            ))}
          </details>
        ))}
      {quiet.length > 0 && (
        <details className="mt-1">
          <summary className="head cursor-pointer border-b border-rule text-[15px] font-semibold">
            {tr("Accepted")} <span className="num text-soft">{quiet.length}</span>
          </summary>
          {quiet.map((f) => (
            <Finding key={f.id} page={page} finding={f} />
          ))}
        </details>
      )}
    </section>
  );
}

function Finding({ page, finding }: { page: S["CurriculumPage"]; finding: S["CurriculumFinding"] }) {
  const may = useMay();
  const id = page.line.id;
  const [reason, setReason] = useState<string>();
  const repair = useAction(
    (_: undefined) => unwrap(client.POST("/api/curricula/{id}/repairs", { params: { path: { id } }, body: { finding: finding.id } })),
    () => tr("Repaired: {{summary}}.", { summary: finding.repair?.summary }),
  );
  const accept = useAction(
    (why: string) =>
      unwrap(client.PUT("/api/curricula/{id}/accepted", { params: { path: { id } }, body: { finding: finding.id, reason: why } })),
    (_, why) => (why ? tr("Accepted; it is quiet now.") : tr("It speaks again.")),
    () => setReason(undefined),
  );
  const kind = word(finding.kind);
  const writes = may("take-audit-repair") && !page.frozen;
  return (
    <Note
      tone={finding.accepted ? "moss" : finding.severity === "blocks" ? "clay" : "lake"}
      title={`${kind[0]?.toUpperCase()}${kind.slice(1)}.`}
    >
      {finding.cause}
      {finding.accepted && <p className="text-soft">{tr("Accepted: {{accepted}}", { accepted: finding.accepted })}</p>}
      {writes && (
        <div className="mt-1 flex flex-wrap items-center gap-2">
          {finding.repair && !finding.accepted && (
            <Button
              look={finding.severity === "blocks" ? "main" : "plain"}
              className="!h-auto min-h-[31px] !whitespace-normal text-left"
              disabled={repair.isPending}
              onClick={() => repair.mutate(undefined)}
            >
              {finding.repair.summary}
            </Button>
          )}
          {finding.accepted ? (
            <button type="button" className="link text-[12.5px]" onClick={() => accept.mutate("")}>
              {tr("Let it speak again")}
            </button>
          ) : reason === undefined ? (
            <button
              type="button"
              className="link text-[12.5px]"
              aria-label={tr("Accept: {{cause}}", { cause: finding.cause })}
              onClick={() => setReason("")}
            >
              {tr("Accept…")}
            </button>
          ) : (
            <form
              className="flex flex-1 gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                accept.mutate(reason);
              }}
            >
              <input
                aria-label={tr("Why it is accepted")}
                placeholder={tr("Why it is accepted")}
                // biome-ignore lint/a11y/noAutofocus: it was just asked for
                autoFocus
                className="h-[31px] flex-1 rounded-sm border border-rule bg-white px-2"
                value={reason}
                onChange={(e) => setReason(e.target.value)}
              />
              <Button type="submit" disabled={!reason.trim()}>
                {tr("Accept it")}
              </Button>
            </form>
          )}
        </div>
      )}
      {accept.error && <p className="text-clay">{accept.error.message}</p>}
    </Note>
  );
}
