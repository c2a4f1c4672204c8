import { useQuery } from "@tanstack/react-query";
import { lazy, type ReactNode, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { client, type Trouble, take } from "./api/client";
import { MeProvider } from "./api/use";
import { Library } from "./areas/library/Library";
import { Shell } from "./areas/Shell";
import { SignIn } from "./areas/SignIn";

const Curricula = lazy(() => import("./areas/curricula/Curricula"));
const Season = lazy(() => import("./areas/season/Season"));
const Mat = lazy(() => import("./areas/mat/Mat"));
const Clock = lazy(() => import("./areas/mat/Clock"));
const Check = lazy(() => import("./areas/mat/Check"));
const Ledger = lazy(() => import("./areas/ledger/Ledger"));
const People = lazy(() => import("./areas/people/People"));
const Academy = lazy(() => import("./areas/academy/Academy"));
const MyPage = lazy(() => import("./areas/me/MyPage"));

/** App signs in, then opens the areas in the order of the work. */
export function App() {
  const me = useQuery({ queryKey: ["me"], queryFn: () => take(client.GET("/api/session")), retry: false, staleTime: 60_000 });
  if (me.isPending) return null;
  if (!me.data) return <SignIn trouble={(me.error as Trouble | null)?.status === 0 ? me.error?.message : undefined} />;
  const home = { student: "/me", "front desk": "/mat", coach: "/mat", "head instructor": "/library" }[me.data.role] ?? "/library";
  return (
    <MeProvider value={me.data}>
      <Suspense fallback={<Waiting />}>
        <Routes>
          <Route path="/clock/:night" element={<Clock />} />
          <Route path="/check" element={<Check />} />
          <Route path="/me" element={<MyPage />} />
          <Route path="/library/:id?" element={desk(<Library />)} />
          <Route path="/curricula/:id?" element={desk(<Curricula />)} />
          <Route path="/season/:id?" element={desk(<Season />)} />
          <Route path="/mat/:night?" element={desk(<Mat />)} />
          <Route path="/ledger/:student?" element={desk(<Ledger />)} />
          <Route path="/people" element={desk(<People />)} />
          <Route path="/academy" element={desk(<Academy />)} />
          <Route path="*" element={<Navigate to={home} replace />} />
        </Routes>
      </Suspense>
    </MeProvider>
  );
}

function desk(area: ReactNode) {
  return (
    <Shell>
      <Suspense fallback={<Waiting />}>{area}</Suspense>
    </Shell>
  );
}

function Waiting() {
  return (
    <p className="p-5 text-soft" role="status">
      Opening…
    </p>
  );
}
