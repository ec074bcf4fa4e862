import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { usePartners } from "../kit/PartnerNames";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal } from "../lib/api";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import type { Limits, Plan } from "./usePlan";

const NUMBERS = [
  "split",
  "surplus_percent",
  "surplus_worth_percent",
  "most_suppliers",
  "oldest_days",
  "seconds",
] as const;
const LABELS: Record<(typeof NUMBERS)[number], [label: string, hint: string]> = {
  split: ["A need is spread over at most", "offers; 1: each part comes from one"],
  surplus_percent: ["Bought over the need at most, %", "empty: as much as pays"],
  surplus_worth_percent: ["What is over is worth, %", "of the price paid, credited to the plan"],
  most_suppliers: ["At most so many suppliers", "empty: as many as pay"],
  oldest_days: ["Prices said at most so many days ago", "empty: however old; older ones are not used"],
  seconds: ["Search at most, seconds", "then the best plan found stands, with its bound"],
};
const SWITCHES = {
  hold_to_days: "goods must be there by the day they are needed",
  use_stock: "use what is in stock first",
  use_orders: "count what is on order and comes in time",
  drafts: "drafts of sheets count",
} satisfies Partial<Record<keyof Limits, string>>;

/** Within which limits a plan is made. */
export function LimitsPanel({ plan, onClose }: { plan: Plan; onClose: () => void }) {
  const form = useForm(NUMBERS, plan.limits, NUMBERS);
  const [on, setOn] = useState(plan.limits);
  const [makers, setMakers] = useState(plan.limits.barred_makers.join(", "));
  const suppliers = usePartners("supplier").data ?? [];
  const may = useMay("buying");
  const untrue = useUntrue();
  const save = useMutation<Plan, Refusal, void>({
    mutationFn: async () => {
      const number = (name: (typeof NUMBERS)[number]) => form.changes[name] ?? form.values[name];
      await answer(
        client.PATCH("/api/buying/plans/{plan_id}", {
          params: { path: { plan_id: plan.id } },
          body: {
            version: plan.version,
            limits: {
              ...on,
              split: Math.trunc(Number(number("split"))) || 0,
              surplus_percent: number("surplus_percent") || null,
              surplus_worth_percent: number("surplus_worth_percent") || "0",
              most_suppliers: number("most_suppliers") ? Math.trunc(Number(number("most_suppliers"))) || 0 : null,
              oldest_days: number("oldest_days") ? Math.trunc(Number(number("oldest_days"))) : null,
              barred_makers: makers.split(","),
              seconds: Math.trunc(Number(number("seconds"))) || 0,
            },
          },
        }),
      );
      return answer(client.POST("/api/buying/plans/{plan_id}/plan", { params: { path: { plan_id: plan.id } } }));
    },
    onSuccess: () => {
      untrue("plan");
      onClose();
    },
  });
  return (
    <Panel title="Limits" note={`within which ${plan.number} is planned`} open onClose={onClose}>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {NUMBERS.map((name, index) => (
          <Field key={name} label={LABELS[name][0]} hint={LABELS[name][1]} error={save.error?.of(name)}>
            {(p) => (
              <input
                {...p}
                {...form.bind(name)}
                className="field !w-[120px] text-right"
                inputMode="decimal"
                autoFocus={index === 0}
                disabled={!may}
              />
            )}
          </Field>
        ))}
        {(Object.keys(SWITCHES) as (keyof typeof SWITCHES)[]).map((name) => (
          <label key={name} className="flex min-h-6 items-center gap-2">
            <input
              type="checkbox"
              disabled={!may}
              checked={on[name]}
              onChange={(event) => setOn((old) => ({ ...old, [name]: event.target.checked }))}
            />
            {SWITCHES[name]}
          </label>
        ))}
        <Field label="Makers that are not bought" hint="with commas" error={save.error?.of("barred_makers")}>
          {(p) => (
            <input
              {...p}
              className="field"
              disabled={!may}
              value={makers}
              onChange={(event) => setMakers(event.target.value)}
            />
          )}
        </Field>
        <fieldset className="flex flex-col gap-1">
          <legend className="pb-1 text-ink-2">Suppliers that are used</legend>
          {suppliers.map((s) => (
            <label key={s.code} className="flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                disabled={!may}
                checked={!on.barred.includes(s.name)}
                onChange={(event) =>
                  setOn((old) => ({
                    ...old,
                    barred: event.target.checked ? old.barred.filter((n) => n !== s.name) : [...old.barred, s.name],
                  }))
                }
              />
              {s.name}
            </label>
          ))}
        </fieldset>
        {save.error && !save.error.problems.some((p) => p.place) && (
          <p role="alert" className="text-bad">
            {save.error.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button needs="buying" look="strong" type="submit" disabled={save.isPending}>
            Plan within these
          </Button>
          <Button onClick={onClose}>Leave them</Button>
        </div>
      </form>
    </Panel>
  );
}
