import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { Roles } from "./Roles";

/** Somebody who may sign in from now on; the first password is told to them, and they choose their own. */
export function NewPerson({ roles, onClose }: { roles: Record<string, string[]>; onClose: () => void }) {
  const [person, setPerson] = useState({ name: "", full_name: "", password: "" });
  const [chosen, setChosen] = useState<string[]>([]);
  const untrue = useUntrue();
  const say = useSay();
  const add = useMutation<Schemas["PeopleOut"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people", { body: { ...person, roles: chosen } })),
    onSuccess: () => {
      say(`${person.name} may sign in now.`);
      untrue("people");
      onClose();
    },
  });
  const field = (name: keyof typeof person, label: string, hint?: string) => (
    <Field label={label} hint={hint} error={add.error?.of(name)}>
      {(p) => (
        <input
          {...p}
          className="field"
          autoFocus={name === "name"}
          autoComplete="off"
          value={person[name]}
          onChange={(e) => setPerson({ ...person, [name]: e.target.value })}
        />
      )}
    </Field>
  );
  return (
    <Panel title="Add somebody" open onClose={onClose}>
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        {field("name", "Signs in as")}
        {field("full_name", "Name", "as it stands beside what they change")}
        {field(
          "password",
          "First password",
          "tell it to them; it opens nothing but the choice of their own, for seven days",
        )}
        <Roles roles={roles} chosen={chosen} onChange={setChosen} error={add.error?.of("roles")} />
        {add.error && !add.error.problems.some((p) => p.place) && (
          <p role="alert" className="text-bad">
            {add.error.message}
          </p>
        )}
        <div className="mt-auto flex gap-2 pt-4">
          <Button look="strong" type="submit" disabled={!person.name || !person.password || add.isPending}>
            Add them
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            Leave it
          </Button>
        </div>
      </form>
    </Panel>
  );
}
