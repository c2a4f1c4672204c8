import type { ReactNode } from "react";
import { tr } from "../../kit/tr";
import { Waymark } from "../../kit/Waymark";

/** Door is the page of whoever is not inside yet. */
export function Door({ says, wide, children }: { says: string; wide?: boolean; children: ReactNode }) {
  return (
    <main className={`mx-auto flex min-h-screen flex-col justify-center gap-4 px-4 pb-24 ${wide ? "max-w-lg pt-10" : "max-w-xs"}`}>
      <div>
        <h1 className="flex items-center gap-2 text-[32px]">
          <Waymark rung="teaches" size={22} /> {tr("Vereda")}
        </h1>
        <p className="text-soft">{says}</p>
      </div>
      {children}
    </main>
  );
}
