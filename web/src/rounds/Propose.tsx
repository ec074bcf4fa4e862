import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { INPUTS } from "../lib/declared";
import { typed } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { PartChoice } from "../pieces/PartChoice";
import type { Round } from "../pieces/useRounds";
import { List } from "./ProposeList";
import { Percent } from "./ProposePercent";

export type Table = keyof typeof INPUTS;

/** What can be proposed, by what it is of. */
const FIELDS: Record<Table, Record<string, string>> = INPUTS;
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

/** After something was proposed: the round as it is then, and a word of it. */
export function useProposed(round: Round, onDone?: () => void) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  const say = useSay();
  return (done: Schemas["Proposed"]) => {
    queries.setQueryData(["rounds", round.id], done.round);
    untrue("round");
    say(`Proposed ${done.inputs === 1 ? "one input" : `${done.inputs} inputs`} in ${round.name}.`);
    onDone?.();
  };
}

export function FieldChoice({
  tables,
  table,
  field,
  onChange,
  error,
}: {
  tables: Table[];
  table: Table;
  field: string;
  onChange: (table: Table, field: string) => void;
  error?: string;
}) {
  const words: Record<Table, string> = {
    part: "of parts",
    work_center: "of work centers",
    operation: "of operations",
    line: "of lines",
  };
  return (
    <Field label="Input" error={error}>
      {(p) => (
        <select
          {...p}
          className="field"
          value={`${table} ${field}`}
          onChange={(e) => {
            const [next, name] = e.target.value.split(" ");
            onChange(next as Table, name!);
          }}
        >
          {tables.map((t) => (
            <optgroup key={t} label={words[t]}>
              {Object.entries(FIELDS[t]).map(([name, word]) => (
                <option key={name} value={`${t} ${name}`}>
                  {word}
                </option>
              ))}
            </optgroup>
          ))}
        </select>
      )}
    </Field>
  );
}

export function useCenters() {
  return useQuery({ queryKey: ["work-centers"], queryFn: () => answer(client.GET("/api/work-centers")) }).data ?? [];
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

/** What is refused and stands at no field of its own. */
export function Refused({ error, shown }: { error: Refusal | null; shown: string[] }) {
  const listed = error?.problems.filter((p) => !shown.includes(p.place)) ?? [];
  if (!error || (error.problems.length > 0 && listed.length === 0)) return null;
  return (
    <p role="alert" className="text-bad">
      {listed.length
        ? listed
            .slice(0, 5)
            .map((p) => p.message)
            .join("; ")
        : error.message}
    </p>
  );
}
