import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { useMe } from "../../api/actions";
import { client, unwrap } from "../../api/client";
import { tr } from "../../kit/tr";
import { signOut } from "../../outbox/signOut";
import { StudentLeaf } from "../ledger/StudentLeaf";

/** MyPage is the student's own: what was covered, what was passed, what is next. Nothing of anybody else. */
export default function MyPage() {
  const me = useMe();
  const [of, setOf] = useState(me.roles.includes("student") ? "" : (me.wards[0]?.id ?? ""));
  const page = useQuery({
    queryKey: ["my page", of],
    queryFn: () => unwrap(client.GET("/api/me", { params: { query: { of } } })),
  });
  const pages = [...(me.roles.includes("student") ? [{ id: "", name: me.name }] : []), ...me.wards];
  return (
    <main className="mx-auto min-h-screen max-w-2xl px-4 py-3">
      <p className="flex gap-4 border-b-[1.5px] border-ink pb-1">
        <b className="head text-xl">{tr("Vereda")}</b>
        <span className="flex-1 text-soft">{me.academy}</span>
        <Link className="link" to="/library">
          {tr("Library")}
        </Link>
        <Link className="link" to="/account">
          {tr("Account")}
        </Link>
        <button type="button" className="link" onClick={signOut}>
          {tr("Sign out")}
        </button>
      </p>
      {pages.length > 1 && (
        <p className="flex gap-4 pt-2">
          {pages.map((p) => (
            <button key={p.id} type="button" className={p.id === of ? "font-bold" : "link"} onClick={() => setOf(p.id)}>
              {p.name}
            </button>
          ))}
        </p>
      )}
      <div className="pt-3">
        {page.error && <p className="text-clay">{page.error.message}</p>}
        {page.data && <StudentLeaf page={page.data} />}
        {page.data && (
          <p className="mt-6 border-t border-hair pt-2 text-[13px]">
            <a className="link" href={`/api/people/${page.data.person.id}/data.json`} download>
              {tr("Everything kept of {{of}}", { of: of ? page.data.person.name : tr("you") })}
            </a>
          </p>
        )}
      </div>
    </main>
  );
}
