import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Trouble, unwrap } from "../api/client";
import { Button } from "../kit/Button";
import { Input } from "../kit/Field";
import { chooseLanguage, type Language, language, languages, tr } from "../kit/tr";
import { Door } from "./account/Door";

/** SignIn asks who is there, and for the code of the second factor where there is one. What was written stays when it is refused. */
export function SignIn() {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState<string>();
  const [wrong, setWrong] = useState<string>();
  const [sent, setSent] = useState("");
  const [busy, setBusy] = useState(false);
  async function send(e: FormEvent) {
    e.preventDefault();
    if (!name.trim() || !password) {
      setWrong(tr("Write your name and your password."));
      return;
    }
    setBusy(true);
    try {
      const in_ = await unwrap(client.POST("/api/session", { body: { name, password, code: code || undefined } }));
      if (in_.me) queries.setQueryData(["me"], in_.me);
      else {
        setWrong(undefined);
        setCode("");
        setBusy(false);
      }
    } catch (e) {
      setWrong((e as Trouble).message);
      setBusy(false);
    }
  }
  async function forgotten() {
    if (!name.trim()) {
      setWrong(tr("Write your name first: the letter goes to the address kept with it."));
      return;
    }
    try {
      await unwrap(client.POST("/api/forgotten", { body: { name } }));
      setWrong(undefined);
      setSent(
        tr("If there is an account “{{name}}” with an e-mail address, a letter is on its way. Otherwise ask the head instructor.", {
          name: name.trim(),
        }),
      );
    } catch (e) {
      setWrong((e as Trouble).message);
    }
  }
  return (
    <Door says={tr("The footpath through positions, and the week on the mat.")}>
      <form onSubmit={send} className="flex flex-col gap-3 border-t-[1.5px] border-ink pt-4">
        <Input label={tr("Name")} name="name" autoComplete="username" autoFocus value={name} onChange={(e) => setName(e.target.value)} />
        <Input
          label={tr("Password")}
          name="password"
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          error={code === undefined ? wrong : undefined}
        />
        {code !== undefined && (
          <Input
            label={tr("Code")}
            name="code"
            autoComplete="one-time-code"
            inputMode="numeric"
            autoFocus
            hint={tr("From your authenticator, or a recovery code")}
            value={code}
            onChange={(e) => setCode(e.target.value)}
            error={wrong}
          />
        )}
        <Button type="submit" look="main" disabled={busy} className="mt-1">
          {tr("Sign in")}
        </Button>
        <button type="button" className="link self-start text-[13px]" onClick={forgotten}>
          {tr("Forgotten password")}
        </button>
        {sent && (
          <p role="status" className="border-l-[3px] border-moss pl-2.5 text-[13.5px]">
            {sent}
          </p>
        )}
      </form>
      <nav aria-label={tr("Language")} className="mt-4 flex gap-4 text-[13px]">
        {Object.entries(languages).map(([key, name]) => (
          <button
            key={key}
            type="button"
            lang={key}
            aria-current={key === language() || undefined}
            className="min-h-6 text-lake underline aria-[current]:text-ink aria-[current]:no-underline"
            onClick={() => chooseLanguage(key as Language)}
          >
            {name}
          </button>
        ))}
      </nav>
    </Door>
  );
}
