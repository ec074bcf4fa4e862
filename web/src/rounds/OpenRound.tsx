import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { type Round, SCOPE_WORDS } from "../pieces/useRounds";

/** A new round: its name, its day, and of which parts it is. */
export function OpenRound({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState("");
  const [first, setFirst] = useState("");
  const [scope, setScope] = useState("touched");
  const [note, setNote] = useState("");
  const navigate = useNavigate();
  const untrue = useUntrue();
  const open = useMutation<Round, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/rounds", { body: { name, first_day: first, scope, note } })),
    onSuccess: (round) => {
      untrue("round");
      navigate(`/rounds/${round.id}`);
    },
  });
  return (
    <Panel title="Open a round" note="Nothing changes before it is accepted." open onClose={onClose}>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          open.mutate();
        }}
      >
        <Field label="Name" error={open.error?.of("name")}>
          {(p) => <input {...p} className="field" value={name} onChange={(e) => setName(e.target.value)} />}
        </Field>
        <Field
          label="Holds from"
          hint="Its standards count from this day on; sheets and rates are those of this day."
          error={open.error?.of("first_day")}
        >
          {(p) => <DayField {...p} className="field" value={first} onKeep={setFirst} />}
        </Field>
        <Field label="Of which parts" error={open.error?.of("scope")}>
          {(p) => (
            <select {...p} className="field" value={scope} onChange={(e) => setScope(e.target.value)}>
              {Object.entries(SCOPE_WORDS).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Why">
          {(p) => <input {...p} className="field" value={note} onChange={(e) => setNote(e.target.value)} />}
        </Field>
        {open.error && open.error.problems.length === 0 && (
          <p role="alert" className="text-bad">
            {open.error.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button look="strong" type="submit" disabled={open.isPending}>
            Open it
          </Button>
          <Button onClick={onClose}>Leave</Button>
        </div>
      </form>
    </Panel>
  );
}
