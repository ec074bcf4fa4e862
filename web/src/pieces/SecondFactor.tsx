import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { CodeField } from "./CodeField";

type Begun = Schemas["SecondBegun"];

/** One's own second factor: set up with a password, a picture to scan and a first code; taken away by proving both. */
export function SecondFactor({ onDone }: { onDone?: () => void }) {
  const queries = useQueryClient();
  const say = useSay();
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [begun, setBegun] = useState<Begun | null>(null);
  const [codes, setCodes] = useState<string[]>([]);
  const own = useQuery({
    queryKey: ["own-second"],
    queryFn: () => answer(client.GET("/api/people/own-second")),
    staleTime: 0,
  });
  const cleared = () => {
    setPassword("");
    setCode("");
    void queries.invalidateQueries({ queryKey: ["own-second"] });
  };
  const begin = useMutation<Begun, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/own-second", { body: { password, code: "" } })),
    onSuccess: (now) => {
      setBegun(now);
      cleared();
    },
  });
  const confirm = useMutation<Schemas["SpareCodes"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/own-second/confirm", { body: { code } })),
    onSuccess: (now) => {
      setCodes(now.codes);
      setBegun(null);
      cleared();
    },
  });
  const drop = useMutation<Schemas["OwnSecond"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/own-second/drop", { body: { password, code } })),
    onSuccess: () => {
      setCodes([]);
      cleared();
      say("You sign in with your password alone.");
      void queries.invalidateQueries({ queryKey: ["session"] });
    },
  });
  const sent = (act: { mutate: () => void }) => (event: FormEvent) => {
    event.preventDefault();
    act.mutate();
  };
  const wrong = (error: Refusal | null, name: string) =>
    error?.of(name) ?? (name === "password" && !error?.of("code") ? error?.message : undefined);
  const ofPassword = (error: Refusal | null) => (
    <Field label="Your password" error={wrong(error, "password")}>
      {(p) => (
        <input
          {...p}
          type="password"
          autoComplete="current-password"
          autoFocus={!!onDone}
          className="field"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
      )}
    </Field>
  );
  if (!own.data) return null;
  if (codes.length > 0)
    return (
      <div role="status" className="mt-3 border border-brass px-3 py-2">
        <p>
          It is set up. Keep these codes where you find them without your device: each opens your account once, and they
          are not shown again.
        </p>
        <ul
          className="grid grid-cols-2 py-2 font-mono text-[14px] select-all"
          aria-label="Codes for the day it is lost"
        >
          {codes.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
        <Button
          look="strong"
          onClick={() => {
            setCodes([]);
            onDone?.();
          }}
        >
          I keep them
        </Button>
      </div>
    );
  if (begun)
    return (
      <form className="mt-3 flex flex-col gap-3" aria-label="First code" onSubmit={sent(confirm)}>
        <p className="text-ink-2">
          Scan this with an authenticator, or type its secret there; then type the code it shows.
        </p>
        <img src={begun.picture} alt="Secret for an authenticator, to be scanned" className="w-[200px] bg-white" />
        <code className="font-mono text-[13px] break-all select-all" aria-label="The secret">
          {begun.secret}
        </code>
        <CodeField
          label="The code it shows now"
          error={confirm.error ? (confirm.error.of("code") ?? confirm.error.message) : undefined}
          value={code}
          onChange={setCode}
        />
        <div className="flex gap-2">
          <Button look="strong" type="submit" disabled={!code.trim() || confirm.isPending}>
            Sign in with it from now on
          </Button>
          <Button onClick={() => setBegun(null)}>Leave it</Button>
        </div>
      </form>
    );
  if (own.data.has && onDone)
    return <p className="mt-3">This session began without it. Sign out, and sign in with a code of it.</p>;
  if (own.data.has)
    return (
      <form className="mt-3 flex flex-col gap-3" aria-label="Take the second factor away" onSubmit={sent(drop)}>
        <p className="text-ink-2">
          You sign in with a code beside your password; {own.data.left} {own.data.left === 1 ? "code" : "codes"} for the
          day it is lost {own.data.left === 1 ? "is" : "are"} left.
        </p>
        {ofPassword(drop.error)}
        <Field label="A code of it" error={drop.error?.of("code")}>
          {(p) => (
            <input {...p} className="field font-mono" value={code} onChange={(event) => setCode(event.target.value)} />
          )}
        </Field>
        <div>
          <Button type="submit" disabled={!password || !code.trim() || drop.isPending}>
            Take it away
          </Button>
        </div>
      </form>
    );
  return (
    <form className="mt-3 flex flex-col gap-3" aria-label="Set a second factor up" onSubmit={sent(begin)}>
      <p className="text-ink-2">
        A code that changes every half a minute, shown by an authenticator of yours, beside the password.
      </p>
      {ofPassword(begin.error)}
      <div>
        <Button type="submit" disabled={!password || begin.isPending}>
          Set it up
        </Button>
      </div>
    </form>
  );
}
