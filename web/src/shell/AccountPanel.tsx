import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { OwnPassword } from "../pieces/OwnPassword";
import { SecondFactor } from "../pieces/SecondFactor";
import { endedWords, OwnSessions } from "./OwnSessions";
import { OwnSignOn, useOwnSignOn } from "./OwnSignOn";

type Tokens = Schemas["TokensOut"];
type Made = Schemas["TokenMade"];

/** One's own password and sessions, and tokens by which programs read what one may read oneself: made, shown once, revoked. */
export function AccountPanel({ onClose }: { onClose: () => void }) {
  const list = useQuery({ queryKey: ["tokens"], queryFn: () => answer(client.GET("/api/tokens")), staleTime: 0 });
  const [made, setMade] = useState<Made | null>(null);
  const untrue = useUntrue();
  const queries = useQueryClient();
  const hasPassword = useOwnSignOn().data?.password ?? true;
  const say = useSay();
  const revoke = useMutation<Tokens, Refusal, number>({
    mutationFn: (token_id) => answer(client.POST("/api/tokens/{token_id}/revoke", { params: { path: { token_id } } })),
    onSuccess: () => untrue("token"),
  });
  return (
    <Panel title="Your account" open onClose={onClose}>
      {hasPassword && (
        <OwnPassword
          onDone={(ended) => {
            say(`Your password is another one. ${endedWords(ended)}`);
            void queries.invalidateQueries({ queryKey: ["own-sessions"] });
          }}
        />
      )}
      <h3 className="mt-6 border-t border-hair pt-4 font-semibold">Sessions</h3>
      <OwnSessions />
      <OwnSignOn />
      {hasPassword && (
        <>
          <h3 className="mt-6 border-t border-hair pt-4 font-semibold">Second factor</h3>
          <SecondFactor />
        </>
      )}
      <h3 className="mt-6 border-t border-hair pt-4 font-semibold">Tokens for programs</h3>
      <p className="text-ink-2">by which a program reads, and never writes</p>
      {list.data && <NewToken readable={list.data.readable} onMade={setMade} />}
      {made && (
        <div role="status" className="mt-3 border border-brass px-3 py-2">
          <p>
            The token of <b className="font-semibold">{made.name}</b>. It is not shown again:
          </p>
          <code className="block py-1 font-mono text-[13px] break-all select-all" aria-label="The token">
            {made.token}
          </code>
          <p className="text-[12px] text-ink-2">
            A program sends it as the header <code className="font-mono">Authorization: Bearer …</code>.
          </p>
        </div>
      )}
      <ul className="mt-4">
        {(list.data?.tokens ?? []).map((t) => (
          <li key={t.id} className="flex items-baseline gap-2 border-b border-hair py-1.5">
            <span className={`min-w-0 flex-1 ${t.holds ? "" : "text-ink-3"}`}>
              <b className="font-semibold">{t.name}</b> <span className="font-mono text-[12px]">{t.start}…</span>
              <span className="block text-[12px] text-ink-3">
                reads {t.subjects.join(", ")}; {t.holds ? `until ${day(t.until)}` : "no longer taken"}
                {t.used_at ? `, last used ${day(t.used_at)}` : ", never used"}
              </span>
            </span>
            {t.holds && (
              <Button look="quiet" disabled={revoke.isPending} onClick={() => revoke.mutate(t.id)}>
                Revoke
              </Button>
            )}
          </li>
        ))}
      </ul>
      <p className="pt-3 text-[12px] text-ink-2">
        What can be read, and in which form:{" "}
        <Link className="text-blue underline" to="/programs" onClick={onClose}>
          address by address
        </Link>
        , or{" "}
        <a className="text-blue underline" href="/api/openapi.json">
          the OpenAPI document
        </a>
        .
      </p>
    </Panel>
  );
}

function NewToken({ readable, onMade }: { readable: string[]; onMade: (made: Made) => void }) {
  const [name, setName] = useState("");
  const [subjects, setSubjects] = useState<string[]>([]);
  const [days, setDays] = useState("90");
  const untrue = useUntrue();
  const make = useMutation<Made, Refusal, void>({
    mutationFn: () =>
      answer(client.POST("/api/tokens", { body: { name, subjects, days: Math.trunc(Number(days)) || 0 } })),
    onSuccess: (made) => {
      onMade(made);
      setName("");
      setSubjects([]);
      untrue("token");
    },
  });
  return (
    <form
      className="mt-4 flex flex-col gap-3"
      aria-label="New token"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <Field label="What it is for" error={make.error?.of("name")}>
        {(p) => <input {...p} className="field" value={name} onChange={(e) => setName(e.target.value)} />}
      </Field>
      <fieldset>
        <legend className="pb-1 text-ink-2">What it may read</legend>
        <div className="grid grid-cols-2">
          {readable.map((subject) => (
            <label key={subject} className="flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                checked={subjects.includes(subject)}
                onChange={(event) =>
                  setSubjects((old) => (event.target.checked ? [...old, subject] : old.filter((s) => s !== subject)))
                }
              />
              {subject}
            </label>
          ))}
        </div>
        {make.error?.of("subjects") && (
          <p role="alert" className="text-[12px] text-bad">
            {make.error.of("subjects")}
          </p>
        )}
      </fieldset>
      <Field label="For how many days" hint="at most 400" error={make.error?.of("days")}>
        {(p) => (
          <input
            {...p}
            className="field !w-[90px] text-right"
            inputMode="numeric"
            value={days}
            onChange={(e) => setDays(e.target.value)}
          />
        )}
      </Field>
      {make.error && !make.error.problems.some((p) => p.place) && (
        <p role="alert" className="text-bad">
          {make.error.message}
        </p>
      )}
      <div>
        <Button look="strong" type="submit" disabled={!name.trim() || subjects.length === 0 || make.isPending}>
          Make the token
        </Button>
      </div>
    </form>
  );
}
