import { type FormEvent, useState } from "react";
import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { useOpened } from "../../kit/draft";
import { TextArea } from "../../kit/Field";
import { tr } from "../../kit/tr";

type Point = S["LibraryKeyPoint"];

const texts = [
  ["cue", tr("Cue"), tr("The few words said on the mat")],
  ["detail", tr("Detail"), ""],
  ["limb", tr("Limb"), tr("Which limb of whom")],
  ["moment", tr("Moment"), tr("When to act on it")],
  ["closes", tr("Closes"), tr("The way out it takes from the partner")],
] as const;

/** KeyPointForm rewrites one key point. Sides are written as {left} and {right}, so that the other side writes itself. */
export function KeyPointForm({
  technique,
  point,
  version,
  onDone,
}: {
  technique: string;
  point: Point;
  version: number;
  onDone: () => void;
}) {
  const opened = useOpened(version);
  const [draft, setDraft] = useState<Point>(point);
  const save = useAction(
    (body: Point) =>
      unwrap(
        client.PUT("/api/techniques/{id}/points/{point}", {
          params: { path: { id: technique, point: point.id }, query: { version: opened } },
          body,
        }),
      ),
    () => tr("Changed key point “{{replaceIs}}”.", { replaceIs: draft.cue.replace(/[{}]/g, "") }),
    onDone,
  );
  const wrong = save.error?.fields ?? {};
  function send(e: FormEvent) {
    e.preventDefault();
    save.mutate(draft);
  }
  return (
    <form
      onSubmit={send}
      onKeyDown={(e) => e.key === "Escape" && onDone()}
      className="flex flex-col gap-2 border-l-[3px] border-lake py-1 pl-3"
      aria-label={tr("Change key point")}
    >
      <p className="text-[12.5px] text-soft">{tr("Write a side as {left} or {right}: it turns by itself on the other side.")}</p>
      {texts.map(([field, label, hint], i) => (
        <TextArea
          key={field}
          label={label}
          hint={hint}
          error={wrong[field]}
          rows={field === "detail" ? 2 : 1}
          autoFocus={i === 0}
          value={draft[field] ?? ""}
          onChange={(e) => setDraft({ ...draft, [field]: e.target.value })}
        />
      ))}
      <div className="flex gap-5">
        <label className="flex gap-1.5">
          <input type="checkbox" checked={!!draft.gate} onChange={(e) => setDraft({ ...draft, gate: e.target.checked })} />
          {tr("Gate")}
        </label>
        <label className="flex gap-1.5">
          <input type="checkbox" checked={!!draft.checkpoint} onChange={(e) => setDraft({ ...draft, checkpoint: e.target.checked })} />
          {tr("Checkpoint")}
        </label>
      </div>
      {save.error && <p className="text-clay">{save.error.message}</p>}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={save.isPending}>
          {tr("Save key point")}
        </Button>
        <Button onClick={onDone}>{tr("Cancel")}</Button>
      </div>
    </form>
  );
}
