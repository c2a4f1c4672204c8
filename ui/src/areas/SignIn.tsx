import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Trouble, unwrap } from "../api/client";
import { Button } from "../kit/Button";
import { Input } from "../kit/Field";
import { Waymark } from "../kit/Waymark";

/** SignIn asks who is there. What was written stays when it is refused. */
export function SignIn() {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [wrong, setWrong] = useState<string>();
  const [busy, setBusy] = useState(false);
  async function send(e: FormEvent) {
    e.preventDefault();
    if (!name.trim() || !password) {
      setWrong("Write your name and your password.");
      return;
    }
    setBusy(true);
    try {
      const me = await unwrap(client.POST("/api/session", { body: { name, password } }));
      queries.setQueryData(["me"], me);
    } catch (e) {
      setWrong((e as Trouble).message);
      setBusy(false);
    }
  }
  return (
    <main className="mx-auto flex min-h-screen max-w-xs flex-col justify-center gap-4 px-4 pb-24">
      <div>
        <h1 className="flex items-center gap-2 text-[32px]">
          <Waymark rung="teaches" size={22} /> Vereda
        </h1>
        <p className="text-soft">The footpath through positions, and the week on the mat.</p>
      </div>
      <form onSubmit={send} className="flex flex-col gap-3 border-t-[1.5px] border-ink pt-4">
        <Input label="Name" name="name" autoComplete="username" autoFocus value={name} onChange={(e) => setName(e.target.value)} />
        <Input
          label="Password"
          name="password"
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          error={wrong}
        />
        <Button type="submit" look="main" disabled={busy} className="mt-1">
          Sign in
        </Button>
      </form>
    </main>
  );
}
