import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAction, useMe } from "../../api/actions";
import { client, type S, unwrap } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Input } from "../../kit/Field";
import { type Ground, groundNow, setGround } from "../../kit/ground";
import { Note, SplitPane } from "../../kit/SplitPane";
import { chooseLanguage, type Language, language, languages, tr, word } from "../../kit/tr";
import { moment } from "../../kit/words";

/** Account is somebody's own: password, second factor, where they are signed in. */
export default function Account() {
  const page = useQuery({ queryKey: ["account"], queryFn: () => unwrap(client.GET("/api/account")) });
  const end = useAction(
    (only: string) => unwrap(client.DELETE("/api/account/sessions", { params: { query: { only } } })),
    (_, only) => (only ? tr("Signed out there.") : tr("Signed out everywhere else.")),
  );
  const me = useMe();
  if (page.error) return <p className="p-5 text-clay">{page.error.message}</p>;
  const a = page.data;
  if (!a) return null;
  return (
    <SplitPane
      wide="even"
      left={
        <>
          <h1>{tr("Your account")}</h1>
          <p className="text-soft">
            {tr("You sign in as")} <b>{a.sign_in}</b>: {a.roles.map(word).join(", ")}.
          </p>
          {me.wants_factor && (
            <Note tone="clay" title={tr("Your academy wants a second factor of its head instructors.")}>
              {tr("Set one up here; everything else opens after it.")}
            </Note>
          )}
          <Password least={a.least} />
          <SecondFactor account={a} />
          <GroundChoice />
        </>
      }
      right={
        <>
          <div className="flex items-baseline gap-3">
            <h2 className="flex-1">{tr("Signed in")}</h2>
            {a.places.length > 1 && <Button onClick={() => end.mutate("")}>{tr("Sign out everywhere else")}</Button>}
          </div>
          <table className="grid-lines mt-1">
            <thead>
              <tr>
                <th>{tr("Browser")}</th>
                <th>{tr("Address")}</th>
                <th>{tr("Last used")}</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {a.places.map((x) => (
                <tr key={x.id}>
                  <td>{browser(x.agent)}</td>
                  <td>{x.address}</td>
                  <td className="num whitespace-nowrap">{moment(x.seen)}</td>
                  <td className="text-right">
                    {x.here ? (
                      <span className="text-soft">{tr("here")}</span>
                    ) : (
                      <button
                        type="button"
                        className="link"
                        aria-label={tr("Sign out of {{agent}}", { agent: browser(x.agent) })}
                        onClick={() => end.mutate(x.id)}
                      >
                        {tr("Sign out")}
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-2 text-[12.5px] text-soft">{tr("A place nobody used for three days is signed out by itself.")}</p>
        </>
      }
    />
  );
}

/** browser shortens what a browser calls itself to what a person knows it by. */
function browser(agent: string): string {
  const name = /(Firefox|Edg|Chrome|Safari)\/[\d.]+/.exec(agent)?.[1] ?? tr("A browser");
  const on = /(Android|iPhone|iPad|Windows|Mac OS X|Linux)/.exec(agent)?.[1];
  return on ? `${name === "Edg" ? tr("Edge") : name}, ${on}` : name;
}

function Password({ least }: { least: number }) {
  const [now, setNow] = useState("");
  const [password, setPassword] = useState("");
  const change = useAction(
    (body: { now: string; password: string }) => unwrap(client.PUT("/api/account/password", { body })),
    () => tr("Changed your password."),
    () => {
      setNow("");
      setPassword("");
    },
  );
  const old = change.error?.fields.now;
  return (
    <form
      className="mt-4 max-w-sm"
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate({ now, password });
      }}
    >
      <h2>{tr("Password")}</h2>
      <div className="flex flex-col gap-2">
        <Input
          label={tr("The password you have")}
          type="password"
          autoComplete="current-password"
          value={now}
          error={old}
          onChange={(e) => setNow(e.target.value)}
        />
        <Input
          label={tr("The new one")}
          type="password"
          autoComplete="new-password"
          hint={tr("At least {{least}} characters", { least })}
          value={password}
          error={old ? undefined : (change.error?.fields.password ?? change.error?.message)}
          onChange={(e) => setPassword(e.target.value)}
        />
        <Button type="submit" className="self-start" disabled={!now || !password || change.isPending}>
          {tr("Change password")}
        </Button>
      </div>
    </form>
  );
}

function SecondFactor({ account: a }: { account: S["Own"] }) {
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const begin = useAction((p: string) => unwrap(client.POST("/api/account/second-factor", { body: { password: p } })));
  const confirm = useAction((c: string) => unwrap(client.PUT("/api/account/second-factor", { body: { code: c } })));
  const remove = useAction(
    (p: string) => unwrap(client.POST("/api/account/second-factor/removal", { body: { password: p } })),
    () => tr("No second factor is asked for any more."),
    () => setPassword(""),
  );
  return (
    <section className="mt-5 max-w-md">
      <h2>{tr("Second factor")}</h2>
      {a.wanted && !a.factor && <Note tone="clay">{tr("The academy wants a second factor of its head instructors.")}</Note>}
      {confirm.data ? (
        <Note title={tr("It is asked for from now on.")}>
          {tr("Keep these recovery codes where you find them without your phone. Each opens the account once; they are not shown again.")}
          <ul className="num mt-1 columns-2">
            {confirm.data.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          <Button className="mt-1" onClick={() => window.print()}>
            {tr("Print")}
          </Button>
        </Note>
      ) : begin.data && !a.factor ? (
        <div className="flex flex-col gap-2">
          <p>{tr("Read this with an authenticator on your phone, then write the code it shows.")}</p>
          <img
            src={begin.data.picture}
            alt={tr("The secret, to be read with a phone")}
            width={180}
            height={180}
            className="border border-hair"
          />
          <p className="text-[12.5px] text-soft">
            {tr("Or type it there:")} <code className="break-all">{begin.data.secret}</code>
          </p>
          <Input
            label={tr("Code")}
            inputMode="numeric"
            autoComplete="one-time-code"
            value={code}
            error={confirm.error?.message}
            onChange={(e) => setCode(e.target.value)}
          />
          <Button look="main" className="self-start" disabled={!code} onClick={() => confirm.mutate(code)}>
            {tr("Confirm")}
          </Button>
        </div>
      ) : (
        <div className="flex flex-col gap-2">
          <p className="text-soft">
            {a.factor
              ? tr("A code is asked for besides the password. {{recovery}} recovery codes are left.", { recovery: a.recovery })
              : tr("A code from your phone besides the password: whoever learns the password alone does not get in.")}
          </p>
          <Input
            label={tr("Your password")}
            type="password"
            autoComplete="current-password"
            value={password}
            error={(a.factor ? remove : begin).error?.message}
            onChange={(e) => setPassword(e.target.value)}
          />
          {a.factor ? (
            <Button className="self-start" look="warn" disabled={!password} onClick={() => remove.mutate(password)}>
              {tr("Remove second factor")}
            </Button>
          ) : (
            <Button className="self-start" disabled={!password} onClick={() => begin.mutate(password)}>
              {tr("Set up second factor")}
            </Button>
          )}
        </div>
      )}
    </section>
  );
}

/** GroundChoice says what the pages stand on, on this device alone. */
function GroundChoice() {
  const [ground, show] = useState(groundNow);
  return (
    <section className="mt-5 max-w-md">
      <h2>{tr("On this device")}</h2>
      <p className="mb-1.5 text-soft">{tr("Light or dark pages; what is printed stays light.")}</p>
      <Choice
        label={tr("Ground of the pages")}
        value={ground}
        options={[
          { value: "device", label: tr("As the device") },
          { value: "light", label: tr("Light") },
          { value: "dark", label: tr("Dark") },
        ]}
        onChange={(g: Ground) => {
          setGround(g);
          show(g);
        }}
      />
      <p className="mt-3 mb-1.5 text-soft">{tr("Names and texts of the library stay as they were written.")}</p>
      <Choice
        label={tr("Language")}
        value={language()}
        options={Object.entries(languages).map(([value, label]) => ({ value: value as Language, label }))}
        onChange={chooseLanguage}
      />
    </section>
  );
}
