import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { LIFECYCLES } from "../lib/declared";
import { typed } from "../lib/number";
import { useClasses } from "../pieces/parts/useParts";
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
type Name = keyof typeof FIELDS;
const FLAGS: Name[] = ["sold", "unmodelled"];
const TEXTS: Name[] = ["part_class", "lifecycle", "supplier", "material"];

/** One field of many parts, changed in one go; what it changes is seen first. */
export function ChangeParts({ numbers, onClose }: { numbers: string[]; onClose: (saved: boolean) => void }) {
  const [name, setName] = useState<Name>("part_class");
  const [value, setValue] = useState("");
  const classes = useClasses();
  const plan = useMutation<Schemas["RowsPreview"], Refusal, void>({
    mutationFn: () => {
      const sent = FLAGS.includes(name) ? value === "yes" : TEXTS.includes(name) ? value : typed(value);
      const rows = numbers.map((number) => ({ number, fields: { [name]: sent } }));
      return answer(client.POST("/api/parts/rows/planned", { body: { rows, reason: "" } }));
    },
  });
  const save = useSaveRows(`${FIELDS[name].toLowerCase()} of a selection`, () => onClose(true));
  const rows = plan.data?.rows ?? [];
  const bad = rows.filter((row) => row.problems.length > 0).length;
  const toSave = rowsOf(rows);
  const again = (change: () => void) => {
    plan.reset();
    change();
  };
  const choices = name === "lifecycle" ? [...LIFECYCLES] : FLAGS.includes(name) ? ["yes", "no"] : null;
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
                    setName(event.target.value as Name);
                    setValue(
                      event.target.value === "lifecycle"
                        ? "active"
                        : FLAGS.includes(event.target.value as Name)
                          ? "yes"
                          : "",
                    );
                  })
                }
              >
                {Object.entries(FIELDS).map(([key, label]) => (
                  <option key={key} value={key}>
                    {label}
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
                      {choice.replace("_", " ")}
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
