import { useState } from "react";
import { useNavigate } from "react-router";
import { useAction } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { TextArea } from "../../kit/Field";
import { tr } from "../../kit/tr";

/** TakeBack makes a check count for nothing: it was of somebody else, or never happened. */
export function TakeBack({ id, back }: { id: string; back: string }) {
  const [reason, setReason] = useState("");
  const go = useNavigate();
  const take = useAction(
    () => unwrap(client.POST("/api/checks/{id}/withdraw", { params: { path: { id } }, body: { reason } })),
    () => tr("Withdrew the check; the reason is on record."),
    () => go(back),
  );
  return (
    <section className="mt-6 border-t border-rule pt-2">
      <h2>{tr("Withdraw this check")}</h2>
      <p className="text-soft">{tr("For a check of the wrong person, or one that never was. It counts for nothing then.")}</p>
      <TextArea
        label={tr("Why it is withdrawn")}
        rows={2}
        value={reason}
        error={take.error?.fields.reason ?? take.error?.message}
        onChange={(e) => setReason(e.target.value)}
      />
      <Button look="warn" className="mt-2 h-[44px]! w-full" disabled={take.isPending} onClick={() => take.mutate(undefined)}>
        {tr("Withdraw check")}
      </Button>
    </section>
  );
}
