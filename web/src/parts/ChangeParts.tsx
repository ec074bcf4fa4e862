import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import type { PartOut } from "../lib/api";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { LIFECYCLES } from "../lib/declared";
import { typed } from "../lib/number";
import { type PartClass, useClasses } from "../pieces/parts/useParts";
import { PlannedRows } from "./PlannedRows";
import { rowsOf, useSaveRows } from "./useSaveRows";

const FIELDS = {
  part_class: "Class",
  lifecycle: "Lifecycle",
  unit_cost: "Unit cost",
  overhead_percent: "Material overhead, %",
  costing_lot: "Costing lot",
  lead_time_days: "Lead time, days",
  supplier: "Supplier",
  material: "Material",
  reorder_level: "Reorder level",
  order_minimum: "Order minimum",
  order_multiple: "Order multiple",
  sold: "Sold on its own",
  unmodelled: "On no drawing (glue, paint, labels)",
} as const;
const FLAGS: string[] = ["sold", "unmodelled"];
const TEXTS: string[] = ["part_class", "lifecycle", "supplier", "material"];

/** A field of the parts' own class, as the choice of a field names it. */
const OWN = "own ";

/** One field of many parts, changed in one go; what it changes is seen first. */
export function ChangeParts({ parts, onClose }: { parts: PartOut[]; onClose: (saved: boolean) => void }) {
  const numbers = parts.map((part) => part.number);
  const [name, setName] = useState<string>("part_class");
  const [value, setValue] = useState("");
  const classes = useClasses();
  // The fields that all of them have, whichever class each is in.
  const shared = sharedFields(
    classes,
    parts.map((part) => part.part_class),
  );
  const own = name.startsWith(OWN) ? shared.find((f) => f.name === name.slice(OWN.length)) : undefined;
  const plan = useMutation<Schemas["RowsPreview"], Refusal, void>({
    mutationFn: () => {
      const number = own ? own.kind === "number" || own.kind === "money" : !TEXTS.includes(name);
      const sent = FLAGS.includes(name) ? value === "yes" : number ? typed(value) : value;
      const fields = own ? { own_values: { [own.name]: String(sent) } } : { [name]: sent };
      const rows = numbers.map((each) => ({ number: each, fields }));
      return answer(client.POST("/api/parts/rows/planned", { body: { rows, reason: "" } }));
    },
  });
  const save = useSaveRows(`${(own?.name ?? FIELDS[name as keyof typeof FIELDS]).toLowerCase()} of a selection`, () =>
    onClose(true),
  );
  const rows = plan.data?.rows ?? [];
  const bad = rows.filter((row) => row.problems.length > 0).length;
  const toSave = rowsOf(rows);
  const again = (change: () => void) => {
    plan.reset();
    change();
  };
  const choices =
    name === "lifecycle"
      ? [...LIFECYCLES]
      : FLAGS.includes(name)
        ? ["yes", "no"]
        : own?.kind === "choice"
          ? ["", ...own.choices]
          : null;
  return (
    <Panel
      title={`Change ${numbers.length} ${numbers.length === 1 ? "part" : "parts"}`}
      open
      onClose={() => onClose(false)}
    >
      <form
        className="mt-3 flex min-h-0 flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          plan.mutate();
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          <Field label="Field">
            {(p) => (
              <select
                {...p}
                className="field"
                autoFocus
                value={name}
                onChange={(event) =>
                  again(() => {
                    setName(event.target.value);
                    setValue(
                      event.target.value === "lifecycle" ? "active" : FLAGS.includes(event.target.value) ? "yes" : "",
                    );
                  })
                }
              >
                {Object.entries(FIELDS).map(([key, label]) => (
                  <option key={key} value={key}>
                    {label}
                  </option>
                ))}
                {shared.map((field) => (
                  <option key={field.name} value={`${OWN}${field.name}`}>
                    {field.name.replaceAll("_", " ")}
                    {field.unit && `, ${field.unit}`}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Becomes" hint={choices ? undefined : "empty clears it"}>
            {(p) =>
              choices ? (
                <select {...p} className="field" value={value} onChange={(e) => again(() => setValue(e.target.value))}>
                  {choices.map((choice) => (
                    <option key={choice} value={choice}>
                      {choice === "" ? "nothing" : choice.replace("_", " ")}
                    </option>
                  ))}
                </select>
              ) : (
                <input
                  {...p}
                  className={`field ${TEXTS.includes(name) ? "" : "text-right"}`}
                  list={name === "part_class" ? "change-classes" : undefined}
                  value={value}
                  onChange={(e) => again(() => setValue(e.target.value))}
                />
              )
            }
          </Field>
        </div>
        <datalist id="change-classes">
          {classes.map((c) => (
            <option key={c.name} value={c.name} />
          ))}
        </datalist>
        {(plan.error ?? save.error) && (
          <p role="alert" className="text-bad">
            {(plan.error ?? save.error)!.message}
          </p>
        )}
        <div className="flex gap-2">
          {plan.data ? (
            <Button
              look="strong"
              disabled={bad > 0 || toSave.length === 0 || save.isPending}
              onClick={() => save.mutate(toSave)}
            >
              {toSave.length === 0 ? "Nothing would change" : `Change ${toSave.length}`}
            </Button>
          ) : (
            <Button look="strong" type="submit" disabled={plan.isPending}>
              See what it changes
            </Button>
          )}
          <Button onClick={() => onClose(false)}>Leave it</Button>
        </div>
        {bad > 0 && (
          <p className="text-bad">
            {bad} of {rows.length} cannot become this; a selection is changed whole or not at all.
          </p>
        )}
        {plan.data && <PlannedRows rows={rows} />}
      </form>
    </Panel>
  );
}

/** The fields that can be stated and that each of some classes has, by name and kind. */
function sharedFields(classes: PartClass[], names: string[]): PartClass["fields"] {
  const of = [...new Set(names)].map((name) => classes.find((c) => c.name === name)?.fields ?? []);
  return (of[0] ?? []).filter(
    (field) =>
      field.kind !== "computed" &&
      of.every((fields) => fields.some((other) => other.name === field.name && other.kind === field.kind)),
  );
}
