import { useQuery } from "@tanstack/react-query";
import { client, type S, unwrap } from "../../api/client";
import { tr } from "../../kit/tr";

/** useWords are the lists a record of the library is written with; the server has them. */
export function useWords(): S["Words"] | undefined {
  return useQuery({ queryKey: ["words"], queryFn: () => unwrap(client.GET("/api/library/words")), staleTime: Number.POSITIVE_INFINITY })
    .data;
}

/** useTechniques are all techniques by name, for choosing one. */
export function useTechniques(): S["TechniqueLine"][] {
  return (
    useQuery({ queryKey: ["techniques", ""], queryFn: () => unwrap(client.GET("/api/techniques", { params: { query: { q: "" } } })) })
      .data ?? []
  );
}

/** usePositions are all positions by family. */
export function usePositions(): S["PositionLine"][] {
  return useQuery({ queryKey: ["positions"], queryFn: () => unwrap(client.GET("/api/positions")) }).data ?? [];
}

/** placeWords says a place in words. */
export function placeWords(place: S["LibraryPlace"] | undefined, names: Record<string, string>): string {
  if (!place) return tr("finish");
  return `${names[place.position] ?? place.position}, ${place.part === "attack" ? tr("attacking") : tr("defending")}`;
}
