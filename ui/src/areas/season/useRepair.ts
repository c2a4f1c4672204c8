import { useAction } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { tr } from "../../kit/tr";

/** useRepair shows what would become of a plan after something happened, and does it: said is what is told then, where the proposal's own words do not fit. */
export function useRepair(season: string, body: S["Happening"], then?: () => void, said?: string) {
  const params = { path: { id: season } };
  const propose = useAction((_: undefined) => unwrap(client.POST("/api/seasons/{id}/repairs/proposals", { params, body })));
  const accept = useAction(
    (_: undefined) => unwrap(client.POST("/api/seasons/{id}/repairs", { params, body })),
    () => said ?? tr("{{summary}} and repaired the plan.", { summary: propose.data?.summary ?? tr("Done") }),
    () => (then ?? propose.reset)(),
  );
  return { propose, accept };
}
