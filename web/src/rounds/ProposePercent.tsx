import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { typed } from "../lib/number";
import { useClasses } from "../pieces/parts/useParts";
import type { Round } from "../pieces/useRounds";
import { FieldChoice, Refused, type Table, useCenters, useProposed } from "./proposing";

export function Percent({ round, onClose }: { round: Round; onClose: () => void }) {
  const [[table, field], setInput] = useState<[Table, string]>(["part", "unit_cost"]);
  const [percent, setPercent] = useState("");
  const [partClass, setPartClass] = useState("");
  const [search, setSearch] = useState("");
  const [center, setCenter] = useState("");
  const classes = useClasses();
  const centers = useCenters();
  const done = useProposed(round, onClose);
  const propose = useMutation<Schemas["Proposed"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/rounds/{round_id}/proposals/percent", {
          params: { path: { round_id: round.id } },
          body: {
            table,
            field,
            percent: typed(percent),
            part_class: partClass,
            search,
            work_center: center,
            group: "",
          },
        }),
      ),
    onSuccess: done,
  });
  return (
    <form
      className="mt-3 flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        propose.mutate();
      }}
    >
      <FieldChoice
        tables={["part", "work_center", "operation", "line"]}
        table={table}
        field={field}
        onChange={(t, f) => setInput([t, f])}
        error={propose.error?.of("field")}
      />
      <Field label="Moves by, %" hint="8 is eight percent more, -2.5 is less" error={propose.error?.of("percent")}>
        {(p) => (
          <input
            {...p}
            className="field text-right"
            inputMode="decimal"
            value={percent}
            onChange={(e) => setPercent(e.target.value)}
          />
        )}
      </Field>
      {table !== "work_center" && (
        <>
          <Field
            label={
              table === "part"
                ? "Over the class"
                : table === "line"
                  ? "Of components of the class"
                  : "On sheets of the class"
            }
          >
            {(p) => (
              <select {...p} className="field" value={partClass} onChange={(e) => setPartClass(e.target.value)}>
                <option value="">every class</option>
                {classes.map((c) => (
                  <option key={c.name} value={c.name}>
                    {c.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Whose number or description holds" error={propose.error?.of("selection")}>
            {(p) => <input {...p} className="field" value={search} onChange={(e) => setSearch(e.target.value)} />}
          </Field>
        </>
      )}
      {(table === "work_center" || table === "operation") && (
        <Field label={table === "operation" ? "Done at" : "Of"} error={propose.error?.of("selection")}>
          {(p) => (
            <select {...p} className="field" value={center} onChange={(e) => setCenter(e.target.value)}>
              <option value="">every work center</option>
              {centers.map((c) => (
                <option key={c.code} value={c.code}>
                  {c.code} {c.name}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      <Refused error={propose.error} shown={["field", "percent", "selection"]} />
      <div>
        <Button look="strong" type="submit" disabled={!percent.trim() || propose.isPending}>
          Propose
        </Button>
      </div>
    </form>
  );
}
