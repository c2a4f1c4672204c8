import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { moment } from "../../kit/words";

/** Doors are the readers that check people in by a card: each has a key of its own, shown once. */
export function Doors() {
  const list = useQuery({ queryKey: ["doors"], queryFn: () => unwrap(client.GET("/api/doors")) });
  const [name, setName] = useState("");
  const [key, setKey] = useState("");
  const add = useAction(
    () => unwrap(client.POST("/api/doors", { body: { name } })),
    undefined,
    (made) => {
      setKey(made.key);
      setName("");
    },
  );
  const end = useAction(
    (id: string) => unwrap(client.DELETE("/api/doors/{id}", { params: { path: { id } } })),
    () => tr("The reader's key opens nothing any more."),
  );
  return (
    <section className="mt-4" aria-label={tr("Door readers")}>
      <h2>{tr("Door readers")}</h2>
      <p className="text-[12.5px] text-soft">
        {tr(
          "A reader checks people in by their card: into the class that runs, or one that begins within three quarters of an hour. Each has a key of its own.",
        )}
      </p>
      <ul>
        {(list.data ?? []).map((d) => (
          <li key={d.id} className="flex items-baseline gap-3 border-b border-hair py-1">
            <span className="flex-1">{d.name}</span>
            <span className="num text-soft">{d.seen ? tr("last tap {{seen}}", { seen: moment(d.seen) }) : tr("no tap yet")}</span>
            <button type="button" className="link" aria-label={tr("End {{name}}", { name: d.name })} onClick={() => end.mutate(d.id)}>
              {tr("End")}
            </button>
          </li>
        ))}
      </ul>
      {key && (
        <Note tone="lake" title={tr("Its key, shown once:")}>
          <code className="break-all">{key}</code>
        </Note>
      )}
      <form
        className="mt-1 flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate(undefined);
        }}
      >
        <div className="w-60">
          <Input label={tr("Name of a door")} value={name} error={add.error?.fields.name} onChange={(e) => setName(e.target.value)} />
        </div>
        <Button type="submit" disabled={!name.trim() || add.isPending}>
          {tr("Make a key")}
        </Button>
      </form>
    </section>
  );
}
