import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal } from "../lib/api";
import { useAskedAs } from "../lib/askedAs";
import { typed } from "../lib/number";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { AddBuild } from "../pieces/builds/AddBuild";
import type { Plan } from "./usePlan";

interface Row {
  part: string;
  quantity: string;
  options: string;
  by: string;
}

/** What a plan is for and what is built: a new one, or one that is there. */
export function PlanPanel({ plan, onClose }: { plan: Plan | null; onClose: () => void }) {
  const form = useForm(["title", "note"], plan ?? {});
  const [rows, setRows] = useState<Row[]>(
    (plan?.builds ?? []).map((b) => ({
      part: b.part,
      quantity: b.quantity,
      options: b.options.join(", "),
      by: b.by ?? "",
    })),
  );
  const may = useMay("buying");
  const untrue = useUntrue();
  const navigate = useNavigate();
  const askedAs = useAskedAs();
  const save = useMutation<Plan, Refusal, void>({
    mutationFn: async () => {
      const builds = rows.map((r) => ({
        part: r.part,
        quantity: typed(r.quantity),
        options: r.options.split(/[\s,]+/).filter(Boolean),
        by: r.by || null,
      }));
      const body = { title: form.values.title, note: form.values.note, builds };
      if (!plan) return answer(client.POST("/api/buying/plans", { body: { ...body, key: askedAs(body) } }));
      const path = { plan_id: plan.id };
      await answer(
        client.PATCH("/api/buying/plans/{plan_id}", { params: { path }, body: { ...body, version: plan.version } }),
      );
      return answer(client.POST("/api/buying/plans/{plan_id}/plan", { params: { path } }));
    },
    onSuccess: (saved) => {
      untrue("plan");
      onClose();
      if (!plan) navigate(`/buying/${saved.id}`);
    },
  });
  const set = (at: number, more: Partial<Row>) =>
    setRows((old) => old.map((row, index) => (index === at ? { ...row, ...more } : row)));
  const wrong = (at: number, field: string) => save.error?.of(`builds[${at}].${field}`);
  const general = save.error && !save.error.problems.some((p) => p.place.startsWith("builds[") || p.place === "title");
  return (
    <Panel
      title={plan ? plan.number : "New buy plan"}
      note="What is built, how many, and by when its material must be there"
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Field label="What it is for" error={save.error?.of("title")}>
          {(p) => <input {...p} {...form.bind("title")} className="field" autoFocus disabled={!may} />}
        </Field>
        {rows.map((row, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a build is its place until it is saved
          <div key={at} className="border-t border-hair pt-2">
            <div className="flex items-baseline">
              <span className="pn font-semibold">{row.part}</span>
              <Button
                look="quiet"
                className="!min-h-0 ml-auto"
                onClick={() => setRows((old) => old.filter((_, i) => i !== at))}
              >
                take away
              </Button>
            </div>
            {wrong(at, "part") && (
              <p role="alert" className="text-[12px] text-bad">
                {wrong(at, "part")}
              </p>
            )}
            <div className="grid grid-cols-[90px_1fr_130px] gap-2">
              <Field label="How many" error={wrong(at, "quantity")}>
                {(p) => (
                  <input
                    {...p}
                    className="field text-right"
                    inputMode="decimal"
                    value={row.quantity}
                    disabled={!may}
                    onChange={(e) => set(at, { quantity: e.target.value })}
                  />
                )}
              </Field>
              <Field label="Options">
                {(p) => (
                  <input
                    {...p}
                    className="field"
                    placeholder="none"
                    value={row.options}
                    disabled={!may}
                    onChange={(e) => set(at, { options: e.target.value })}
                  />
                )}
              </Field>
              <Field label="Material by" error={wrong(at, "by")}>
                {(p) => (
                  <DayField
                    {...p}
                    placeholder="no day"
                    value={row.by}
                    disabled={!may}
                    onKeep={(iso) => set(at, { by: iso })}
                  />
                )}
              </Field>
            </div>
          </div>
        ))}
        {may && (
          <AddBuild
            words={rows.length ? "another product" : "a product to build"}
            onAdd={(part) => setRows((old) => [...old, { part, quantity: "", options: "", by: old.at(-1)?.by ?? "" }])}
          />
        )}
        <Field label="Note">
          {(p) => <textarea {...p} {...form.bind("note")} rows={2} className="field" disabled={!may} />}
        </Field>
        {general && (
          <p role="alert" className="text-bad">
            {save.error?.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button needs="buying" look="strong" type="submit" disabled={save.isPending}>
            Plan it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Panel>
  );
}
