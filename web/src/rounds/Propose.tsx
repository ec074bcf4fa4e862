import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { typed } from "../lib/number";
import { PartChoice } from "../pieces/PartChoice";
import type { Round } from "../pieces/useRounds";
import { List } from "./ProposeList";
import { Percent } from "./ProposePercent";
import { FieldChoice, Refused, type Table, useCenters, useProposed } from "./proposing";

const WAYS = { percent: "a percentage", one: "one input", list: "a list" } as const;

/** Inputs as they would be: a percentage over a selection, one by one, or a list. */
export function Propose({ round, onClose }: { round: Round; onClose: () => void }) {
  const [way, setWay] = useState<keyof typeof WAYS>("percent");
  return (
    <Panel
      title={`Propose in ${round.name}`}
      note="What stands now stays as it is until, and unless, it is changed there."
      open
      onClose={onClose}
    >
      <fieldset className="mt-3 flex gap-4 border-b border-hair pb-2">
        <legend className="sr-only">How</legend>
        {Object.entries(WAYS).map(([value, words]) => (
          <label key={value} className="flex items-center gap-1.5">
            <input type="radio" name="way" checked={way === value} onChange={() => setWay(value as typeof way)} />{" "}
            {words}
          </label>
        ))}
      </fieldset>
      {way === "percent" && <Percent round={round} onClose={onClose} />}
      {way === "one" && <One round={round} />}
      {way === "list" && <List round={round} onClose={onClose} />}
    </Panel>
  );
}

function One({ round }: { round: Round }) {
  const [[table, field], setInput] = useState<[Table, string]>(["part", "unit_cost"]);
  const [key, setKey] = useState("");
  const [value, setValue] = useState("");
  const [reason, setReason] = useState("");
  const centers = useCenters();
  const done = useProposed(round, () => {
    setValue("");
    setReason("");
  });
  const propose = useMutation<Schemas["Proposed"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/rounds/{round_id}/proposals", {
          params: { path: { round_id: round.id } },
          body: { items: [{ table, key, field, value: typed(value), reason }] },
        }),
      ),
    onSuccess: done,
  });
  const byHand = field === "given_cost" || field === "markup_percent";
  return (
    <form
      className="mt-3 flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        propose.mutate();
      }}
    >
      <FieldChoice
        tables={["part", "work_center"]}
        table={table}
        field={field}
        onChange={(t, f) => {
          if (t !== table) setKey("");
          setInput([t, f]);
        }}
      />
      {table === "part" ? (
        <PartChoice label="Part" value={key} onKeep={setKey} />
      ) : (
        <Field label="Work center">
          {(p) => (
            <select {...p} className="field" value={key} onChange={(e) => setKey(e.target.value)}>
              <option value="">choose</option>
              {centers.map((c) => (
                <option key={c.code} value={c.code}>
                  {c.code} {c.name}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      <Field label="As it would be">
        {(p) => (
          <input
            {...p}
            className="field text-right"
            inputMode="decimal"
            value={value}
            onChange={(e) => setValue(e.target.value)}
          />
        )}
      </Field>
      <Field label={byHand ? "Why it is given by hand" : "Why"}>
        {(p) => <input {...p} className="field" value={reason} onChange={(e) => setReason(e.target.value)} />}
      </Field>
      <p className="text-[12px] text-ink-3">
        Quantities, scrap and times of one line or operation are tried on its sheet (questions to the cost) and put into
        a round from there.
      </p>
      <Refused error={propose.error} shown={[]} />
      <div>
        <Button look="strong" type="submit" disabled={!key || propose.isPending}>
          Propose
        </Button>
      </div>
    </form>
  );
}
