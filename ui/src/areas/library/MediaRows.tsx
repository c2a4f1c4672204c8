import { useState } from "react";
import { type S, Trouble } from "../../api/client";
import { Input } from "../../kit/Field";
import { Rows } from "../../kit/Rows";
import { language, tr } from "../../kit/tr";
import { PickPoint } from "./KeyPointRows";
import { type PartProps, short } from "./TechniqueEditor";

export function MediaRows({ t, put, wrong, words }: PartProps) {
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState("");
  async function attach(file: File | undefined) {
    if (!file) return;
    setTrouble("");
    setBusy(file.name);
    try {
      const answer = await fetch("/api/files", {
        method: "POST",
        headers: { "Content-Type": "application/octet-stream", "Accept-Language": language() },
        body: file,
      });
      const told = await answer.json();
      if (!answer.ok) throw new Trouble(answer.status, told.detail ?? tr("The file was refused."), {});
      const kept = told as S["Kept"] & { digest: string; type: string; bytes: number };
      put({
        media: [
          ...(t.media ?? []),
          { id: `m${short()}`, file: kept.digest, type: kept.type, bytes: kept.bytes, name: file.name, shows: "" },
        ],
      });
    } catch (e) {
      setTrouble(`${file.name}: ${(e as Error).message}`);
    }
    setBusy("");
  }
  return (
    <>
      <Rows
        title={tr("Pictures and clips")}
        add=""
        items={t.media ?? []}
        blank={(): S["LibraryAttachment"] => ({ id: "", file: "", type: "", bytes: 0, name: "", shows: "" })}
        onChange={(media) => put({ media: media.length ? media : undefined })}
      >
        {(m, set, i) => (
          <div className="grid grid-cols-[90px_minmax(0,1fr)_150px_80px] gap-2">
            <Media of={m} small />
            <Input
              label={tr("What {{name}} shows", { name: m.name })}
              hint={tr("In words, for those who do not see it")}
              value={m.shows}
              error={wrong[`media[${i}].shows`] ?? wrong[`media[${i}].file`]}
              onChange={(e) => set({ ...m, shows: e.target.value })}
            />
            <PickPoint label={tr("At key point")} t={t} value={m.key_point} onChange={(key_point) => set({ ...m, key_point })} />
            {m.type.startsWith("video") ? (
              <Input
                label={tr("Time mark")}
                placeholder="1:05"
                value={m.at ?? ""}
                error={wrong[`media[${i}].at`]}
                onChange={(e) => set({ ...m, at: e.target.value || undefined })}
              />
            ) : (
              <span />
            )}
          </div>
        )}
      </Rows>
      <label className="link cursor-pointer text-[13px] focus-within:outline-2">
        {busy ? tr("Sending {{busy}}…", { busy }) : tr("Attach a picture or a clip, up to 50 MB")}
        <input type="file" className="sr-only" accept={words.media.join(",")} onChange={(e) => attach(e.target.files?.[0])} />
      </label>
      {trouble && (
        <p role="alert" className="text-clay">
          {trouble}
        </p>
      )}
    </>
  );
}

/** Media shows an attached picture or clip; a clip begins at its time mark. */
export function Media({ of: m, small }: { of: S["LibraryAttachment"]; small?: boolean }) {
  const from = `/api/files/${m.file}`;
  const size = small ? "max-h-16" : "max-h-56";
  if (m.type.startsWith("video")) {
    const [min = 0, sec = 0] = (m.at ?? "0:00").split(":").map(Number);
    return (
      // biome-ignore lint/a11y/useMediaCaption: what the clip shows is written beside it
      <video
        src={`${from}#t=${min * 60 + sec}`}
        controls={!small}
        preload="metadata"
        aria-label={m.shows}
        className={`${size} max-w-full`}
      />
    );
  }
  return <img src={from} alt={m.shows} className={`${size} max-w-full border border-hair`} />;
}
