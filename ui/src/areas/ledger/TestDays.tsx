import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useMay } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Empty } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { date } from "../../kit/words";
import { Form } from "./TestDayForm";
import { Day } from "./TestDayPage";

/** TestDays are days on which people are tested for a rank: planned at once, printed, and read in the evening. */
export function TestDays() {
  const may = useMay();
  const [query, setQuery] = useSearchParams();
  const [making, make] = useState(false);
  const day = query.get("day");
  const list = useQuery({ queryKey: ["test days"], queryFn: () => unwrap(client.GET("/api/test-days")) });
  const open = (id: string) => setQuery({ view: "tests", day: id });
  if (day) return <Day id={day} />;
  if (making) return <Form onDone={open} onCancel={() => make(false)} />;
  return (
    <>
      <div className="flex items-center gap-4">
        <h1 className="flex-1">{tr("Days of tests")}</h1>
        {may("plan-test-day") && (
          <Button look="main" onClick={() => make(true)}>
            {tr("New day of tests")}
          </Button>
        )}
      </div>
      {list.error && <p className="text-clay">{list.error.message}</p>}
      {list.data?.length === 0 && (
        <Empty title={tr("No day of tests yet")}>
          {tr(
            "Choose who is tested and who examines: each gets a time, an examiner who is signed off, a partner of their size, from easy to hard, with rests.",
          )}
        </Empty>
      )}
      <table className="grid-lines mt-2 w-full">
        <tbody>
          {list.data?.map((d) => (
            <tr key={d.id}>
              <td className="num w-32">{date(d.on)}</td>
              <td>
                <button type="button" data-row className="link" onClick={() => open(d.id)}>
                  {d.name}
                </button>
              </td>
              <td className="num text-right">{tr("{{people}} people", { people: d.people })}</td>
              <td className="num text-right">{tr("{{done}} of {{tests}} tests done", { done: d.done, tests: d.tests })}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
