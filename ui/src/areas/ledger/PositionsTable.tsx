import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, unwrap } from "../../api/client";
import { Input, Select } from "../../kit/Field";
import { FirstStep } from "../../kit/FirstStep";
import { arrows } from "../../kit/SplitPane";
import { tr } from "../../kit/tr";
import { Bar, Grid, type Row } from "./PositionsGrid";

type Filter = { ladder: string; rank: string; track: string; coach: string; age_from: string; age_to: string };

export const none: Filter = { ladder: "", rank: "", track: "", coach: "", age_from: "", age_to: "" };

/** PositionsTable is students by positions: in each cell attack above, defence below; dark is there, light is begun, broken red is fading. */
export function PositionsTable({ open, at }: { open?: string; at?: string }) {
  const [filter, setFilter] = useState(none);
  const [name, setName] = useState("");
  const [sort, setSort] = useState<{ by: "behind" | "name" | "share" | number; down: boolean }>({ by: "behind", down: true });
  const page = useQuery({
    queryKey: ["positions", filter],
    queryFn: () =>
      unwrap(
        client.GET("/api/ledger/positions", {
          params: {
            query: {
              ladder: filter.ladder || undefined,
              rank: filter.rank || undefined,
              track: filter.track || undefined,
              coach: filter.coach || undefined,
              age_from: Number(filter.age_from) || undefined,
              age_to: Number(filter.age_to) || undefined,
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const p = page.data;
  const rows = useMemo(() => {
    const wanted = name.trim().toLowerCase();
    const all = (p?.rows ?? []).filter((r) => r.name.toLowerCase().includes(wanted));
    const value = (r: Row): number | string => {
      if (sort.by === "name") return r.name;
      if (sort.by === "share") return r.share;
      if (sort.by === "behind") return r.behind;
      return r.cells.filter((c) => c.at === sort.by).reduce((n, c) => n + c.of - c.there, 0);
    };
    return [...all].sort((a, b) => {
      const x = value(a);
      const y = value(b);
      return (x < y ? -1 : x > y ? 1 : 0) * (sort.down ? -1 : 1);
    });
  }, [p, name, sort]);
  if (page.error) return <p className="text-clay">{page.error.message}</p>;
  if (!p) return null;
  const set = (part: Partial<Filter>) => setFilter({ ...filter, ...part });
  const order = (by: typeof sort.by) => setSort({ by, down: sort.by === by ? !sort.down : by !== "name" });
  const ranks = p.ranks.filter((r) => r.ladder === filter.ladder);
  const filtered = filter !== none && Object.values(filter).some(Boolean);
  if (p.rows.length === 0 && !filtered)
    return (
      <FirstStep
        title={tr("Nothing to compare with yet")}
        ways={[
          ["/curricula", tr("Write a curriculum")],
          ["/people", tr("Add people")],
        ]}
      >
        {tr(
          "The ledger sets each student beside what their next rank asks, position by position. It needs a curriculum, and people on its ladder.",
        )}
      </FirstStep>
    );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys only move the focus between links
    <div onKeyDown={arrows} className="flex h-[calc(100vh-200px)] min-h-[420px] flex-col max-lg:h-[75vh]">
      <div className="grid grid-cols-[minmax(0,1.4fr)_repeat(4,minmax(0,1fr))_64px_64px] items-end gap-2 max-lg:grid-cols-[repeat(auto-fit,minmax(100px,1fr))]">
        <Input label={tr("Find a student")} type="search" data-search value={name} onChange={(e) => setName(e.target.value)} />
        <Select label={tr("Ladder")} value={filter.ladder} onChange={(e) => set({ ladder: e.target.value, rank: "" })}>
          <option value="">{tr("all")}</option>
          {p.ladders.map((l) => (
            <option key={l.id} value={l.id}>
              {l.name}
            </option>
          ))}
        </Select>
        <Select label={tr("Rank")} value={filter.rank} disabled={!filter.ladder} onChange={(e) => set({ rank: e.target.value })}>
          <option value="">{tr("all")}</option>
          {ranks.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}
            </option>
          ))}
        </Select>
        <Select label={tr("Track")} value={filter.track} onChange={(e) => set({ track: e.target.value })}>
          <option value="">{tr("all")}</option>
          {p.tracks.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}
            </option>
          ))}
        </Select>
        <Select label={tr("Coach")} value={filter.coach} onChange={(e) => set({ coach: e.target.value })}>
          <option value="">{tr("all")}</option>
          {p.coaches.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
        </Select>
        <Input
          label={tr("Age from")}
          inputMode="numeric"
          value={filter.age_from}
          onChange={(e) => set({ age_from: e.target.value.replace(/\D/g, "") })}
        />
        <Input
          label={tr("to")}
          inputMode="numeric"
          value={filter.age_to}
          onChange={(e) => set({ age_to: e.target.value.replace(/\D/g, "") })}
        />
      </div>
      <p className="mt-1 text-[12.5px] text-soft">
        {tr("{{rows}} {{n}}. Above attack, below defence, of what the next rank asks on each side:", {
          rows: rows.length,
          n: rows.length === 1 ? tr("student") : tr("students"),
        })}{" "}
        <Bar cell={{ at: 0, part: "attack", of: 4, there: 2, met: 3, due: 1 }} />{" "}
        {tr("two there, one begun, one fading. A head sorts by what is behind there.")}
      </p>
      <Grid page={p} rows={rows} open={open} at={at} sort={sort} onSort={order} />
    </div>
  );
}
