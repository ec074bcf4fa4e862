import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Field } from "../kit/Field";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { INPUTS } from "../lib/declared";
import { useUntrue } from "../lib/untrue";
import type { Round } from "../pieces/useRounds";

export type Table = keyof typeof INPUTS;

/** What can be proposed, by what it is of. */
const FIELDS: Record<Table, Record<string, string>> = INPUTS;

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
