import { useState } from "react";
import { Link } from "react-router";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { TextArea } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { tr, word } from "../../kit/tr";
import { Waymark } from "../../kit/Waymark";

export function Verdict({ kept, page, onAgain }: { kept: S["Kept"]; page: S["CheckPage"]; onAgain: () => void }) {
  const [now, setNow] = useState(kept);
  const [reason, setReason] = useState("");
  const met = now.overruled ? now.overruled.met : now.verdict.met;
  const overrule = useAction(
    () => unwrap(client.POST("/api/checks/{id}/overrule", { params: { path: { id: now.id } }, body: { met: !met, reason } })),
    () => tr("Overruled; the reason is on record."),
    (done) => {
      setNow(done);
      setReason("");
    },
  );
  return (
    <div className="mt-3" data-verdict={met ? "met" : "not met"}>
      <h2 className={`text-[30px] leading-9 ${met ? "text-moss" : "text-clay"}`}>
        {met ? (now.verdict.rung ?? tr("Passed")) : tr("Not yet")}
      </h2>
      <p className="flex items-center gap-2 text-base">
        <Waymark {...now.mark} size={26} /> {page.technique.name}
        {page.side && `, ${word(page.side)}`}: {word(now.mark.rung)}
      </p>
      <ul className="mt-2 list-disc pl-5">
        {now.verdict.reasons.map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
      {now.overruled && (
        <Note tone="lake" title={tr("Overruled.")}>
          {now.overruled.reason} <span className="text-soft">{now.verdict.met ? tr("Computed: met.") : tr("Computed: not met.")}</span>
        </Note>
      )}
      <section className="mt-4 border-t border-rule pt-2">
        <h3>{now.verdict.met ? tr("The standard says met; you decide") : tr("The standard says not met; you decide")}</h3>
        <TextArea
          label={met ? tr("Why it is not met after all") : tr("Why it is met after all")}
          rows={2}
          value={reason}
          error={overrule.error?.fields.reason ?? overrule.error?.message}
          onChange={(e) => setReason(e.target.value)}
        />
        <Button look="warn" className="mt-2 h-[44px]! w-full" disabled={overrule.isPending} onClick={() => overrule.mutate(undefined)}>
          {met ? tr("Overrule: not met") : tr("Overrule: met")}
        </Button>
      </section>
      <p className="mt-3">
        <Link className="link inline-block min-h-[24px]" to={`/check?student=${page.student.id}&correct=${now.id}`}>
          {tr("Correct this check")}
        </Link>
      </p>
      {page.sides.length > 1 && (
        <Button className="mt-3 h-[52px]! w-full" onClick={onAgain}>
          {tr("Check the other side")}
        </Button>
      )}
    </div>
  );
}
