import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { client, type S, type Trouble, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Input, Select } from "../../kit/Field";
import { tr } from "../../kit/tr";
import { Door } from "./Door";

/** LinkPage opens an address that is used once: the first page, an invitation, another password. Its secret stands behind the #. */
export default function LinkPage() {
  const [token] = useState(() => location.hash.slice(1));
  const opened = useQuery<S["Opened"], Trouble>({
    queryKey: ["link", token],
    queryFn: () => unwrap(client.POST("/api/links/open", { body: { token } })),
    enabled: token !== "",
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const error = token ? opened.error?.message : tr("This address is not whole: copy all of it.");
  if (error) {
    return (
      <Door says={tr("This address opens nothing.")}>
        <p role="alert" className="border-t-[1.5px] border-ink pt-4">
          {error}
        </p>
        <a className="link" href="/">
          {tr("To the sign-in")}
        </a>
      </Door>
    );
  }
  if (!opened.data) return null;
  return opened.data.kind === "setup" ? (
    <First token={token} least={opened.data.least} />
  ) : (
    <SetPassword token={token} link={opened.data} />
  );
}

type Beginning = Omit<import("../../api/schema").operations["set-up"]["requestBody"]["content"]["application/json"], "token" | "$schema">;

function useEnter() {
  const queries = useQueryClient();
  const go = useNavigate();
  return (me: S["Me"], to: string) => {
    queries.clear();
    queries.setQueryData(["me"], me);
    go(to, { replace: true });
  };
}

const zones = () => ("supportedValuesOf" in Intl ? Intl.supportedValuesOf("timeZone") : ["UTC"]);

/** First is the first page of all: the academy, and who leads it. */
function First({ token, least }: { token: string; least: number }) {
  const enter = useEnter();
  const [f, set] = useState<Beginning>({
    academy: "",
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    week_start: 1,
    name: "",
    sign_in: "",
    password: "",
  });
  const [wrong, setWrong] = useState<Trouble>();
  const [busy, setBusy] = useState(false);
  const put = (part: Partial<Beginning>) => set({ ...f, ...part });
  async function send(e: FormEvent) {
    e.preventDefault();
    setBusy(true);
    try {
      const in_ = await unwrap(client.POST("/api/links/setup", { body: { token, ...f } }));
      if (in_.me) enter(in_.me, "/begin");
    } catch (e) {
      setWrong(e as Trouble);
      setBusy(false);
    }
  }
  const at = wrong?.fields ?? {};
  return (
    <Door says={tr("Your academy begins here. All of this can be changed later.")} wide>
      <form onSubmit={send} className="flex flex-col gap-3 border-t-[1.5px] border-ink pt-4">
        {wrong && Object.keys(at).length === 0 && (
          <p role="alert" className="text-clay">
            {wrong.message}
          </p>
        )}
        <Input label={tr("Academy")} autoFocus value={f.academy} error={at.academy} onChange={(e) => put({ academy: e.target.value })} />
        <div className="grid grid-cols-2 gap-3">
          <Select label={tr("Time zone")} value={f.zone} error={at.zone} onChange={(e) => put({ zone: e.target.value })}>
            {[...new Set([f.zone, ...zones()])].map((z) => (
              <option key={z}>{z}</option>
            ))}
          </Select>
          <Select label={tr("First day of the week")} value={f.week_start} onChange={(e) => put({ week_start: Number(e.target.value) })}>
            {[tr("Monday"), tr("Tuesday"), tr("Wednesday"), tr("Thursday"), tr("Friday"), tr("Saturday"), tr("Sunday")].map((d, i) => (
              <option key={d} value={i + 1}>
                {d}
              </option>
            ))}
          </Select>
        </div>
        <Input
          label={tr("Head instructor")}
          autoComplete="name"
          value={f.name}
          error={at.name}
          onChange={(e) => put({ name: e.target.value })}
        />
        <Input
          label={tr("Sign in as")}
          hint={tr("A short name or an e-mail address, without spaces")}
          autoComplete="username"
          value={f.sign_in}
          error={at.sign_in}
          onChange={(e) => put({ sign_in: e.target.value })}
        />
        <Input
          label={tr("Password")}
          type="password"
          autoComplete="new-password"
          hint={tr("At least {{least}} characters: several words are easy to keep in mind", { least })}
          value={f.password}
          error={at.password}
          onChange={(e) => put({ password: e.target.value })}
        />
        <Button type="submit" look="main" disabled={busy} className="self-start">
          {tr("Begin")}
        </Button>
      </form>
    </Door>
  );
}

/** SetPassword takes up an invitation, or sets another password. */
function SetPassword({ token, link }: { token: string; link: S["Opened"] }) {
  const enter = useEnter();
  const [password, setPassword] = useState("");
  const [code, setCode] = useState<string>();
  const [wrong, setWrong] = useState("");
  const [busy, setBusy] = useState(false);
  async function send(e: FormEvent) {
    e.preventDefault();
    setBusy(true);
    try {
      const in_ = await unwrap(client.POST("/api/links/use", { body: { token, password, code: code || undefined } }));
      if (in_.me) enter(in_.me, in_.me.home);
      else {
        setCode("");
        setWrong("");
        setBusy(false);
      }
    } catch (e) {
      setWrong((e as Trouble).message);
      setBusy(false);
    }
  }
  return (
    <Door
      says={
        link.kind === "invite"
          ? tr("Welcome to {{academy}}, {{name}}.", { academy: link.academy, name: link.name })
          : tr("Another password for {{academy}}.", { academy: link.academy })
      }
    >
      <form onSubmit={send} className="flex flex-col gap-3 border-t-[1.5px] border-ink pt-4">
        <Input label={tr("You sign in as")} readOnly autoComplete="username" value={link.sign_in ?? ""} />
        <Input
          label={tr("Password")}
          type="password"
          autoComplete="new-password"
          autoFocus
          hint={tr("At least {{least}} characters: several words are easy to keep in mind", { least: link.least })}
          value={password}
          error={wrong || undefined}
          onChange={(e) => setPassword(e.target.value)}
        />
        {code !== undefined && (
          <Input label={tr("Code")} autoComplete="one-time-code" autoFocus value={code} onChange={(e) => setCode(e.target.value)} />
        )}
        <Button type="submit" look="main" disabled={busy}>
          {tr("Set password")}
        </Button>
      </form>
    </Door>
  );
}
