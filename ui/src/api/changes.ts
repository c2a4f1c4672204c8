import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

/** useClassChanges reads a class's page anew when anything about the academy changes, on this server or another one. */
export function useClassChanges(id: string) {
  const queries = useQueryClient();
  useEffect(() => {
    const stream = new EventSource(`/api/classes/${encodeURIComponent(id)}/changes`);
    const anew = () => {
      for (const key of [["session", id], ["clock", id], ["week"]]) queries.invalidateQueries({ queryKey: key });
    };
    // After a gap something may have been missed, so a connection that comes back counts as a change.
    let lost = false;
    stream.onopen = () => {
      if (lost) anew();
      lost = false;
    };
    stream.onerror = () => {
      lost = true;
    };
    stream.onmessage = anew;
    return () => stream.close();
  }, [id, queries]);
}
