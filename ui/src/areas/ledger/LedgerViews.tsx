import { Link } from "react-router";
import { useMay } from "../../api/actions";
import { tr } from "../../kit/tr";

const views = [
  ["", tr("Positions"), "ledger-positions"],
  ["techniques", tr("Techniques"), "heat-map"],
  ["ready", tr("Who is ready when"), "ledger-outlook"],
  ["fading", tr("What fades"), "ledger-fading"],
  ["tests", tr("Test days"), "list-test-days"],
  ["gaps", tr("Same gap"), "ledger-gaps"],
  ["agreement", tr("Agreement"), "ledger-agreement"],
  ["stopping", tr("Who comes less"), "ledger-stopping"],
] as const;

/** LedgerViews leads to the pictures of the ledger; whoever is open on the right stays. */
export function LedgerViews({ view, student }: { view: string; student?: string }) {
  const may = useMay();
  const look = (on: boolean) =>
    `head pb-0.5 text-[14px] no-underline ${on ? "border-b-2 border-ink font-bold" : "font-medium text-soft hover:text-ink"}`;
  return (
    <>
      <h1 className="sr-only">{tr("Ledger")}</h1>
      <nav aria-label={tr("Views of the ledger")} className="no-print mb-2 flex flex-wrap gap-x-4 border-b border-hair">
        {views
          .filter(([, , needs]) => may(needs))
          .map(([key, name]) => (
            <Link
              key={key}
              to={`/ledger${student ? `/${student}` : ""}${key && `?view=${key}`}`}
              aria-current={view === key ? "page" : undefined}
              className={look(view === key)}
            >
              {name}
            </Link>
          ))}
        <Link to="/ledger/sticking-points" className={look(view === "sticking")} aria-current={view === "sticking" ? "page" : undefined}>
          {tr("Sticking points")}
        </Link>
      </nav>
    </>
  );
}
