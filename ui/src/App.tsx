import { useQuery } from "@tanstack/react-query";
import { Component, lazy, type ReactNode, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { MeProvider } from "./api/actions";
import { client, type S, type Trouble, unwrap } from "./api/client";
import { Shell } from "./areas/Shell";
import { SignIn } from "./areas/SignIn";
import { tr } from "./kit/tr";
import { OutboxProvider } from "./outbox/OutboxProvider";

const Library = lazy(() => import("./areas/library/Library").then((m) => ({ default: m.Library })));
const Positions = lazy(() => import("./areas/library/Positions"));
const ForkTables = lazy(() => import("./areas/library/ForkTables"));
const Variants = lazy(() => import("./areas/library/Variants"));
const MapView = lazy(() => import("./areas/library/MapView"));
const Files = lazy(() => import("./areas/library/Files"));
const Cards = lazy(() => import("./areas/library/Cards"));
const Curricula = lazy(() => import("./areas/curricula/Curricula"));
const SheetPage = lazy(() => import("./areas/curricula/SheetPage"));
const Season = lazy(() => import("./areas/season/Season"));
const Mat = lazy(() => import("./areas/mat/Mat"));
const Clock = lazy(() => import("./areas/mat/Clock"));
const Run = lazy(() => import("./areas/run/Run"));
const Sticking = lazy(() => import("./areas/ledger/Sticking"));
const Check = lazy(() => import("./areas/mat/Check"));
const Ledger = lazy(() => import("./areas/ledger/Ledger"));
const People = lazy(() => import("./areas/people/People"));
const Academy = lazy(() => import("./areas/academy/Academy"));
const Accounts = lazy(() => import("./areas/academy/Accounts"));
const Account = lazy(() => import("./areas/account/Account"));
const LinkPage = lazy(() => import("./areas/account/LinkPage"));
const Begin = lazy(() => import("./areas/begin/Begin"));
const Today = lazy(() => import("./areas/Today"));
const MyPage = lazy(() => import("./areas/me/MyPage"));

/** App signs in, then opens the areas in the order of the work. */
export function App() {
  const { pathname } = useLocation();
  if (pathname === "/link") {
    return (
      <Suspense fallback={<Waiting />}>
        <LinkPage />
      </Suspense>
    );
  }
  return <Inside />;
}

function Inside() {
  const { pathname } = useLocation();
  const me = useQuery<S["Me"], Trouble>({
    queryKey: ["me"],
    queryFn: () => unwrap(client.GET("/api/session")),
    retry: false,
    staleTime: 60_000,
    refetchInterval: (q) => (unreachable(q.state.error) ? 2_000 : false),
  });
  if (me.isPending) return null;
  if (!me.data && unreachable(me.error)) return <Unreachable why={me.error?.message ?? ""} />;
  if (!me.data) return <SignIn />;
  return (
    <MeProvider value={me.data}>
      <OutboxProvider>
        <Suspense fallback={<Waiting />}>
          {me.data.wants_factor && pathname !== "/account" && <Navigate to="/account" replace />}
          <Routes>
            <Route path="/clock/:session" element={<Clock />} />
            <Route path="/run/:session?" element={<Run />} />
            <Route path="/check" element={<Check />} />
            <Route path="/me" element={<MyPage />} />
            <Route path="/cards/:id?" element={<Cards />} />
            <Route path="/sheets/:id" element={<SheetPage />} />
            <Route path="/today" element={desk(<Today />)} />
            <Route path="/library/positions/:id?" element={desk(<Positions />)} />
            <Route path="/library/fork-tables/:id?/:way?" element={desk(<ForkTables />)} />
            <Route path="/library/variants" element={desk(<Variants />)} />
            <Route path="/library/map" element={desk(<MapView />)} />
            <Route path="/library/files" element={desk(<Files />)} />
            <Route path="/library/:id?" element={desk(<Library />)} />
            <Route path="/curricula/:id?" element={desk(<Curricula />)} />
            <Route path="/season/:id?" element={desk(<Season />)} />
            <Route path="/mat/:session?" element={desk(<Mat />)} />
            <Route path="/ledger/sticking-points" element={desk(<Sticking />)} />
            <Route path="/ledger/:student?" element={desk(<Ledger />)} />
            <Route path="/people/:id?" element={desk(<People />)} />
            <Route path="/academy/accounts" element={desk(<Accounts />)} />
            <Route path="/account" element={desk(<Account />)} />
            <Route path="/begin" element={desk(<Begin />)} />
            <Route path="/academy" element={desk(<Academy />)} />
            <Route path="*" element={<Navigate to={me.data.home} replace />} />
          </Routes>
        </Suspense>
      </OutboxProvider>
    </MeProvider>
  );
}

/** unreachable says whether the server, or its database, cannot be asked now. */
const unreachable = (e: Trouble | null) => !!e?.away;

function Unreachable({ why }: { why: string }) {
  return (
    <main className="mx-auto max-w-xl p-8" role="alert">
      <h1>{tr("Vereda cannot be reached")}</h1>
      <p className="mt-2">{why}</p>
      <p className="mt-2 text-soft">{tr("This page tries again every two seconds and opens by itself.")}</p>
    </main>
  );
}

function desk(area: ReactNode) {
  return (
    <Shell>
      <ErrorBoundary>
        <Suspense fallback={<Waiting />}>{area}</Suspense>
      </ErrorBoundary>
    </Shell>
  );
}

function Waiting() {
  return (
    <p className="p-5 text-soft" role="status">
      {tr("Opening…")}
    </p>
  );
}

/** ErrorBoundary shows what went wrong in one area and leaves the others usable. */
class ErrorBoundary extends Component<{ children: ReactNode }, { error?: Error }> {
  override state: { error?: Error } = {};
  static getDerivedStateFromError(error: Error) {
    return { error };
  }
  override render() {
    if (!this.state.error) return this.props.children;
    return (
      <main id="main" className="p-5">
        <h1>{tr("This page could not be shown")}</h1>
        <p>{tr("It could not be shown: {{message}}. What was kept is safe on the server.", { message: this.state.error.message })}</p>
        <button type="button" className="link" onClick={() => this.setState({ error: undefined })}>
          {tr("Open it again")}
        </button>
      </main>
    );
  }
}
