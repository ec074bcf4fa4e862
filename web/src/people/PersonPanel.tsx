import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { Roles } from "./Roles";

type Person = Schemas["PersonOut"];

/** One person: name and roles, another password, sessions, and whether the account is open. */
export function PersonPanel({
  person,
  roles,
  onClose,
}: {
  person: Person;
  roles: Record<string, string[]>;
  onClose: () => void;
}) {
  const [name, setName] = useState(person.full_name);
  const [chosen, setChosen] = useState(person.roles);
  const [password, setPassword] = useState("");
  const untrue = useUntrue();
  const say = useSay();
  const change = useMutation<Schemas["PeopleOut"], Refusal, Partial<Schemas["PersonChange"]>>({
    mutationFn: (more) => answer(client.POST("/api/people/change", { body: { name: person.name, ...more } })),
    onSuccess: (_, more) => {
      if (more.active === undefined) say(`Saved what ${person.name} may do.`);
      else say(more.active ? `${person.name} may sign in again.` : `${person.name} is locked out, from this moment.`);
      untrue("people");
    },
  });
  const give = useMutation<Schemas["PeopleOut"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/password", { body: { name: person.name, password } })),
    onSuccess: () => {
      say(`${person.name} has another password; whoever was signed in by the old one is out.`);
      setPassword("");
      untrue("people");
    },
  });
  const end = useMutation<Schemas["Ended"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/sessions", { body: { name: person.name } })),
    onSuccess: ({ sessions }) => {
      say(`${sessions === 1 ? "1 session" : `${sessions} sessions`} of ${person.name} ended.`);
      untrue("people");
    },
  });
  const take = useMutation<Schemas["PeopleOut"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/second", { body: { name: person.name } })),
    onSuccess: () => {
      say(`${person.name} has no second factor any more, and is signed out.`);
      untrue("people");
    },
  });
  const same = name === person.full_name && [...chosen].sort().join() === [...person.roles].sort().join();
  const refused = change.error ?? end.error ?? take.error;
  return (
    <Panel
      title={person.full_name || person.name}
      note={`signs in as ${person.name}${person.all_rights ? "; has all rights, whatever the roles" : ""}`}
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        aria-label="Name and roles"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate({ full_name: name, roles: chosen });
        }}
      >
        <Field label="Name" error={change.error?.of("full_name")}>
          {(p) => <input {...p} className="field" value={name} onChange={(e) => setName(e.target.value)} />}
        </Field>
        <Roles roles={roles} chosen={chosen} onChange={setChosen} error={change.error?.of("roles")} />
        {refused && !refused.problems.some((p) => p.place) && (
          <p role="alert" className="text-bad">
            {refused.message}
          </p>
        )}
        <div>
          <Button look="strong" type="submit" needs="people" disabled={same || change.isPending}>
            Save name and roles
          </Button>
        </div>
      </form>
      <form
        className="mt-5 flex flex-col gap-2 border-t border-hair pt-4"
        aria-label="Another password"
        onSubmit={(event) => {
          event.preventDefault();
          give.mutate();
        }}
      >
        <Field
          label="Another password"
          hint="for one that was lost; their sessions end, and they choose their own"
          error={give.error ? (give.error.of("password") ?? give.error.message) : undefined}
        >
          {(p) => (
            <input
              {...p}
              className="field"
              autoComplete="off"
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          )}
        </Field>
        <div>
          <Button type="submit" needs="people" disabled={!password || give.isPending}>
            Give this password
          </Button>
        </div>
      </form>
      <div className="mt-5 flex flex-wrap gap-2 border-t border-hair pt-4">
        <Button needs="people" disabled={end.isPending} onClick={() => end.mutate()}>
          End their sessions
        </Button>
        {person.second && (
          <Button needs="people" disabled={take.isPending} onClick={() => take.mutate()}>
            Take their second factor away
          </Button>
        )}
        <Button needs="people" disabled={change.isPending} onClick={() => change.mutate({ active: !person.active })}>
          {person.active ? "Lock this account" : "Open this account again"}
        </Button>
      </div>
    </Panel>
  );
}
