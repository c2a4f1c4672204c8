import type { S } from "../../api/client";
import { Select } from "../../kit/Field";
import { tr } from "../../kit/tr";

export type Filter = {
  words: string;
  rank: string;
  track: string;
  kind: "" | "student" | "coach";
  minor: boolean;
  held: boolean;
  away: number;
  account: "" | "with" | "without";
  archived: boolean;
};

export const none: Filter = {
  words: "",
  rank: "",
  track: "",
  kind: "",
  minor: false,
  held: false,
  away: 0,
  account: "",
  archived: false,
};

export type Sort = { by: "name" | "rank" | "last" | "recent" | "joined"; down: boolean };

const plain = (s: string) => s.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();

/** passes says whether somebody fits a filter: each part narrows it. */
export function passes(p: S["PersonRow"], f: Filter, withAccount: Set<string>): boolean {
  const words = plain(f.words.trim());
  return (
    p.archived === f.archived &&
    (!words || plain(`${p.name} ${p.called ?? ""}`).includes(words)) &&
    (!f.rank || `${p.ladder}/${p.rank_id}` === f.rank) &&
    (!f.track || p.tracks.includes(f.track)) &&
    (!f.kind || (f.kind === "coach" ? p.coach : p.student)) &&
    (!f.minor || p.minor) &&
    (!f.held || !!p.held) &&
    (f.away === 0 || (p.student && p.away >= f.away)) &&
    (!f.account || withAccount.has(p.id) === (f.account === "with"))
  );
}

/** sorted orders people by one column, those alike by name. */
export function sorted(all: S["PersonRow"][], sort: Sort): S["PersonRow"][] {
  const by = {
    name: (p: S["PersonRow"]) => plain(p.name),
    rank: (p: S["PersonRow"]) => `${p.ladder} ${String(p.rank_no).padStart(3, "0")}`,
    last: (p: S["PersonRow"]) => p.last_seen ?? "",
    recent: (p: S["PersonRow"]) => String(p.recent).padStart(4, "0"),
    joined: (p: S["PersonRow"]) => p.joined,
  }[sort.by];
  const keyed = all.map((p) => ({ p, key: by(p), name: plain(p.name) }));
  keyed.sort((a, b) => (sort.down ? -1 : 1) * (a.key < b.key ? -1 : a.key > b.key ? 1 : 0) || (a.name < b.name ? -1 : 1));
  return keyed.map((x) => x.p);
}

/** Filters are the search and what narrows the list. */
export function Filters(props: { filter: Filter; put: (part: Partial<Filter>) => void; people: S["PersonRow"][]; head: boolean }) {
  const { filter: f, put, people } = props;
  const ranks = [...new Map(people.filter((p) => p.rank_id).map((p) => [`${p.ladder}/${p.rank_id}`, p])).entries()].sort(
    (a, b) => a[1].ladder.localeCompare(b[1].ladder) || a[1].rank_no - b[1].rank_no,
  );
  const tracks = [...new Set(people.flatMap((p) => p.tracks))].sort();
  return (
    <div className="my-1 flex flex-wrap items-end gap-x-3 gap-y-1">
      <input
        data-search
        type="search"
        aria-label={tr("Search people by name")}
        placeholder={tr("A name")}
        value={f.words}
        onChange={(e) => put({ words: e.target.value })}
        className="h-[31px] w-44 rounded-sm border border-rule bg-white px-2"
      />
      <div className="w-32">
        <Select label={tr("Rank")} value={f.rank} onChange={(e) => put({ rank: e.target.value })}>
          <option value="">{tr("any")}</option>
          {ranks.map(([key, p]) => (
            <option key={key} value={key}>
              {p.rank}
            </option>
          ))}
        </Select>
      </div>
      <div className="w-32">
        <Select label={tr("Comes to")} value={f.track} onChange={(e) => put({ track: e.target.value })}>
          <option value="">{tr("any track")}</option>
          {tracks.map((t) => (
            <option key={t}>{t}</option>
          ))}
        </Select>
      </div>
      <div className="w-28">
        <Select label={tr("Who")} value={f.kind} onChange={(e) => put({ kind: e.target.value as Filter["kind"] })}>
          <option value="">{tr("all")}</option>
          <option value="student">{tr("students")}</option>
          <option value="coach">{tr("coaches")}</option>
        </Select>
      </div>
      <div className="w-32">
        <Select label={tr("Not seen for")} value={f.away} onChange={(e) => put({ away: Number(e.target.value) })}>
          <option value={0}>{tr("any time")}</option>
          {[2, 3, 4, 8, 12].map((n) => (
            <option key={n} value={n}>
              {tr("{{n}} weeks", { n })}
            </option>
          ))}
        </Select>
      </div>
      {props.head && (
        <div className="w-28">
          <Select label={tr("Account")} value={f.account} onChange={(e) => put({ account: e.target.value as Filter["account"] })}>
            <option value="">{tr("any")}</option>
            <option value="with">{tr("with one")}</option>
            <option value="without">{tr("without")}</option>
          </Select>
        </div>
      )}
      {people.some((p) => p.minor) && <Tick label={tr("Minors")} on={f.minor} set={(minor) => put({ minor })} />}
      <Tick label={tr("Held")} on={f.held} set={(held) => put({ held })} />
      {props.head && <Tick label={tr("Archived")} on={f.archived} set={(archived) => put({ archived })} />}
      {JSON.stringify(f) !== JSON.stringify(none) && (
        <button type="button" className="link h-[31px] text-[13px]" onClick={() => put(none)}>
          {tr("Clear filters")}
        </button>
      )}
    </div>
  );
}

function Tick({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex h-[31px] items-center gap-1.5">
      <input type="checkbox" checked={on} onChange={(e) => set(e.target.checked)} />
      {label}
    </label>
  );
}
