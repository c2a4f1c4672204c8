import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input } from "../../kit/Field";
import { Note } from "../../kit/SplitPane";
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
    () => "The reader's key opens nothing any more.",
  );
  return (
    <section className="mt-4" aria-label="Door readers">
      <h2>Door readers</h2>
      <p className="text-[12.5px] text-soft">
        A reader checks people in by their card: into the class that runs, or one that begins within three quarters of an hour. Each has a
        key of its own.
      </p>
      <ul>
        {(list.data ?? []).map((d) => (
          <li key={d.id} className="flex items-baseline gap-3 border-b border-hair py-1">
            <span className="flex-1">{d.name}</span>
            <span className="num text-soft">{d.seen ? `last tap ${moment(d.seen)}` : "no tap yet"}</span>
            <button type="button" className="link" aria-label={`End ${d.name}`} onClick={() => end.mutate(d.id)}>
              End
            </button>
          </li>
        ))}
      </ul>
      {key && (
        <Note tone="lake" title="Its key, shown once:">
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
          <Input label="Name of a door" value={name} error={add.error?.fields.name} onChange={(e) => setName(e.target.value)} />
        </div>
        <Button type="submit" disabled={!name.trim() || add.isPending}>
          Make a key
        </Button>
      </form>
    </section>
  );
}
