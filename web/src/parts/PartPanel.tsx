import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { PartnerNames } from "../kit/PartnerNames";
import { useSay } from "../kit/Says";
import { StandardsChart } from "../kit/StandardsChart";
import { useForm } from "../kit/useForm";
import { answer, client, type PartOut, type Refusal, type Schemas } from "../lib/api";
import type { LIFECYCLES, PART_KINDS } from "../lib/declared";
import { useMay, useReference } from "../lib/session";
import { MakerNumbers } from "./MakerNumbers";
import { OpenOrders } from "./OpenOrders";
import { OwnFields } from "./OwnFields";
import { PartFiles } from "./PartFiles";
import { Stock } from "./Stock";
import { TakeAway } from "./TakeAway";
import { useClasses } from "./useParts";

const NAMES = [
  "number",
  "description",
  "kind",
  "unit",
  "unit_cost",
  "given_cost",
  "markup_percent",
  "given_reason",
  "selling_price",
  "overhead_percent",
  "costing_lot",
  "lead_time_days",
  "lifecycle",
  "second_description",
  "part_class",
  "material",
  "mass_kg",
  "size_mm",
  "supplier",
  "supplier_number",
  "supplier_link",
  "buying_unit",
  "stock_per_buying_unit",
  "reorder_level",
  "order_minimum",
  "order_multiple",
] as const;
const NUMBERS = [
  "unit_cost",
  "given_cost",
  "markup_percent",
  "selling_price",
  "overhead_percent",
  "costing_lot",
  "lead_time_days",
  "mass_kg",
  "stock_per_buying_unit",
  "reorder_level",
  "order_minimum",
  "order_multiple",
] as const;

type Name = (typeof NAMES)[number];

/** Fields that fewer parts have, by what they are about: name, label, hint. */
const MORE: [about: string, fields: [Name, string, string?][]][] = [
  [
    "Shape and description",
    [
      ["second_description", "Second description"],
      ["material", "Material"],
      ["mass_kg", "Mass, kg"],
      ["size_mm", "Overall size, mm", "120 x 80 x 35"],
    ],
  ],
  [
    "Buying and holding",
    [
      ["supplier", "Supplier"],
      ["supplier_number", "Supplier's number"],
      ["supplier_link", "Where it is bought", "a link"],
      ["buying_unit", "Buying unit", "when not the stock unit"],
      ["stock_per_buying_unit", "One holds, in stock units", "1 roll = 50 m"],
      ["reorder_level", "Reorder level"],
      ["order_minimum", "Order minimum"],
      ["order_multiple", "Order multiple"],
    ],
  ],
];

const KIND_WORDS: Record<keyof typeof PART_KINDS, string> = {
  bought: "bought",
  made: "made, with a build sheet",
  phantom: "phantom, never stocked",
  charge: "charge: freight, a fee, tooling",
};
const LIFECYCLE_WORDS: Record<(typeof LIFECYCLES)[number], string> = {
  draft: "draft",
  active: "active",
  last_buy: "last buy",
  obsolete: "obsolete",
};

/** Make a part, or change the one of a number. */
export function PartPanel({ number, onClose }: { number: string | null; onClose: (saved?: PartOut) => void }) {
  const part = useQuery({
    queryKey: ["part", number],
    queryFn: () => answer(client.GET("/api/parts/one", { params: { query: { number: number! } } })),
    enabled: number !== null,
    staleTime: 0,
  });
  if (number !== null && !part.data)
    return (
      <Panel title={number} open onClose={onClose} note={part.error?.message ?? "…"}>
        {null}
      </Panel>
    );
  return <PartForm part={part.data ?? null} onClose={onClose} />;
}

function PartForm({ part, onClose }: { part: PartOut | null; onClose: (saved?: PartOut) => void }) {
  const start = part ?? { kind: "bought", unit: "ea", lifecycle: "active", overhead_percent: "0", lead_time_days: 0 };
  const form = useForm(NAMES, start, NUMBERS);
  const [sold, setSold] = useState(part?.sold ?? false);
  const [unmodelled, setUnmodelled] = useState(part?.unmodelled ?? false);
  const [own, setOwn] = useState<Record<string, string>>(part?.own_values ?? {});
  const classes = useClasses();
  const ofClass = classes.find((c) => c.name === form.values.part_class);
  const more: Partial<Schemas["PartIn"]> = {};
  if (sold !== (part?.sold ?? false)) more.sold = sold;
  if (unmodelled !== (part?.unmodelled ?? false)) more.unmodelled = unmodelled;
  const stated = Object.fromEntries(
    Object.entries(own).filter(([name]) => ofClass?.fields.some((f) => f.name === name && f.kind !== "computed")),
  );
  if (JSON.stringify(own) !== JSON.stringify(part?.own_values ?? {})) more.own_values = stated;
  const reference = useReference().data;
  const may = useMay("parts");
  const say = useSay();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const save = useMutation<PartOut, Refusal, void>({
    mutationFn: () =>
      part
        ? answer(
            client.PATCH("/api/parts/one", {
              params: { query: { number: part.number } },
              body: { ...form.changes, ...more, version: part.version } as Schemas["PartIn"],
            }),
          )
        : answer(
            client.POST("/api/parts", { body: { ...form.values, ...form.changes, ...more } as Schemas["PartIn"] }),
          ),
    onSuccess: (saved) => {
      say(part ? `Saved ${saved.number}.` : `Made ${saved.number}.`);
      for (const key of ["parts", "part", "sheet-view", "partners"]) queries.invalidateQueries({ queryKey: [key] });
      onClose(saved);
    },
  });
  const next = useMutation<Schemas["NextNumber"], Refusal, void>({
    mutationFn: () =>
      answer(client.GET("/api/parts/next-number", { params: { query: { part_class: form.values.part_class } } })),
    onSuccess: ({ number: free }) => form.set("number", free),
    onError: (error) => say(error.message, { bad: true }),
  });
  const wrong = (name: string) => save.error?.of(name);
  const general =
    save.error &&
    !save.error.problems.some(
      (p) => NAMES.includes(p.place as Name) || p.place.startsWith("own_values.") || p.place === "unmodelled",
    );
  const made = form.values.kind === "made" || form.values.kind === "phantom";
  const money = reference ? `${reference.currency} per ${form.values.unit}` : "";
  return (
    <Panel title={part ? part.number : "New part"} open onClose={() => onClose()}>
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <div>
          <Field label="Part number" error={wrong("number")}>
            {(p) => (
              <span className="flex gap-1.5">
                <input {...p} {...form.bind("number")} className="field pn" autoFocus={!part} disabled={!may} />
                {!part && !!ofClass?.digits && (
                  <Button
                    className="!px-2"
                    title={`The next number of ${ofClass.name}`}
                    disabled={next.isPending}
                    onClick={() => next.mutate()}
                  >
                    Next
                  </Button>
                )}
              </span>
            )}
          </Field>
        </div>
        <Field label="Description" error={wrong("description")}>
          {(p) => <input {...p} {...form.bind("description")} className="field" autoFocus={!!part} disabled={!may} />}
        </Field>
        <div className="grid grid-cols-2 gap-3">
          <Field label="Kind" error={wrong("kind")}>
            {(p) => (
              <select {...p} {...form.bind("kind")} className="field" disabled={!may}>
                {Object.entries(KIND_WORDS).map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Stock unit" error={wrong("unit")}>
            {(p) => (
              <select {...p} {...form.bind("unit")} className="field" disabled={!may}>
                {reference?.units.map((unit) => (
                  <option key={unit.symbol} value={unit.symbol}>
                    {unit.symbol} — {unit.measures}
                  </option>
                ))}
              </select>
            )}
          </Field>
          {!made && (
            <Field label="Unit cost" hint={money} error={wrong("unit_cost")}>
              {(p) => (
                <input
                  {...p}
                  {...form.bind("unit_cost")}
                  className="field text-right"
                  inputMode="decimal"
                  disabled={!may}
                />
              )}
            </Field>
          )}
          {form.values.kind === "bought" && (
            <Field label="Material overhead, %" error={wrong("overhead_percent")}>
              {(p) => (
                <input
                  {...p}
                  {...form.bind("overhead_percent")}
                  className="field text-right"
                  inputMode="decimal"
                  disabled={!may}
                />
              )}
            </Field>
          )}
          {form.values.kind === "made" && (
            <Field label="Costing lot" hint={`${form.values.unit}; 1 when empty`} error={wrong("costing_lot")}>
              {(p) => (
                <input
                  {...p}
                  {...form.bind("costing_lot")}
                  className="field text-right"
                  inputMode="decimal"
                  disabled={!may}
                />
              )}
            </Field>
          )}
          <Field label="Selling price" error={wrong("selling_price")}>
            {(p) => (
              <input
                {...p}
                {...form.bind("selling_price")}
                className="field text-right"
                inputMode="decimal"
                disabled={!may}
              />
            )}
          </Field>
          <Field label="Lead time, days" error={wrong("lead_time_days")}>
            {(p) => (
              <input
                {...p}
                {...form.bind("lead_time_days")}
                className="field text-right"
                inputMode="numeric"
                disabled={!may}
              />
            )}
          </Field>
          <Field label="Lifecycle" error={wrong("lifecycle")}>
            {(p) => (
              <select {...p} {...form.bind("lifecycle")} className="field" disabled={!may}>
                {Object.entries(LIFECYCLE_WORDS).map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Class" error={wrong("part_class")}>
            {(p) => <input {...p} {...form.bind("part_class")} className="field" list="part-classes" disabled={!may} />}
          </Field>
        </div>
        <div className="flex flex-wrap gap-x-5 gap-y-1">
          {made && (
            <label className="flex items-center gap-2">
              <input type="checkbox" checked={sold} disabled={!may} onChange={() => setSold(!sold)} />
              sold on its own, too
            </label>
          )}
          {(form.values.kind === "bought" || unmodelled) && (
            <label className="flex items-center gap-2" title="Glue, grease, paint, labels, packaging">
              <input type="checkbox" checked={unmodelled} disabled={!may} onChange={() => setUnmodelled(!unmodelled)} />
              on no drawing: offered to every sheet
            </label>
          )}
          {wrong("unmodelled") && (
            <span role="alert" className="text-[12px] text-bad">
              {wrong("unmodelled")}
            </span>
          )}
        </div>
        {ofClass && ofClass.fields.length > 0 && (
          <details open>
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">Fields of {ofClass.name}</summary>
            <OwnFields
              partClass={ofClass}
              values={own}
              computed={part?.part_class === ofClass.name ? part.computed : {}}
              wrong={wrong}
              may={may}
              onChange={setOwn}
            />
          </details>
        )}
        {form.values.kind !== "phantom" && (
          <details
            open={
              part?.given_cost != null ||
              part?.markup_percent != null ||
              ["given_cost", "markup_percent", "given_reason"].some((n) => wrong(n as Name)) ||
              undefined
            }
          >
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">
              Cost given by hand
              <span className="ml-2 font-normal text-ink-3">
                {form.values.given_cost ||
                  (form.values.markup_percent && `${form.values.markup_percent} % over the roll-up`)}
              </span>
            </summary>
            <div className="grid grid-cols-2 gap-3 pt-1 pb-2">
              <Field label="Cost" hint="instead of the roll-up" error={wrong("given_cost")}>
                {(p) => (
                  <input
                    {...p}
                    {...form.bind("given_cost")}
                    className="field text-right"
                    inputMode="decimal"
                    disabled={!may}
                  />
                )}
              </Field>
              <Field label="or markup, %" hint="over the roll-up; in the element other" error={wrong("markup_percent")}>
                {(p) => (
                  <input
                    {...p}
                    {...form.bind("markup_percent")}
                    className="field text-right"
                    inputMode="decimal"
                    disabled={!may}
                  />
                )}
              </Field>
              <div className="col-span-2">
                <Field label="Why" hint="shown wherever the cost is" error={wrong("given_reason")}>
                  {(p) => <input {...p} {...form.bind("given_reason")} className="field" disabled={!may} />}
                </Field>
              </div>
            </div>
          </details>
        )}
        {MORE.map(([about, fields]) => (
          <details key={about} open={fields.some(([name]) => wrong(name)) || undefined}>
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">
              {about}
              <span className="ml-2 font-normal text-ink-3">
                {fields
                  .map(([name]) => form.values[name])
                  .filter(Boolean)
                  .join(" · ")
                  .slice(0, 48)}
              </span>
            </summary>
            <div className="grid grid-cols-2 gap-3 pt-1 pb-2">
              {fields.map(([name, label, hint]) => (
                <Field key={name} label={label} hint={hint} error={wrong(name)}>
                  {(p) => (
                    <input
                      {...p}
                      {...form.bind(name)}
                      className={`field ${(NUMBERS as readonly string[]).includes(name) ? "text-right" : ""}`}
                      list={name === "supplier" ? "suppliers" : undefined}
                      disabled={!may}
                    />
                  )}
                </Field>
              ))}
            </div>
          </details>
        ))}
        <PartnerNames id="suppliers" of="supplier" />
        <datalist id="part-classes">
          {classes.map((c) => (
            <option key={c.name} value={c.name} />
          ))}
        </datalist>
        {part && (
          <details>
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">Pictures and files</summary>
            <PartFiles part={part.number} may={may} />
          </details>
        )}
        {part && part.kind !== "phantom" && part.kind !== "charge" && (
          <details>
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">Stock and open orders</summary>
            <Stock part={part.number} />
            <OpenOrders part={part.number} unit={part.unit} />
          </details>
        )}
        {part && part.kind !== "phantom" && (
          <details>
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">Standard cost</summary>
            <StandardsChart number={part.number} width={410} />
          </details>
        )}
        {part?.kind === "bought" && (
          <details>
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">Manufacturers' numbers (MPN)</summary>
            <MakerNumbers part={part.number} may={may} />
          </details>
        )}
        {part && <TakeAway number={part.number} onGone={() => onClose()} />}
        {general && (
          <p role="alert" className="text-bad">
            {save.error?.message}
          </p>
        )}
        <div className="mt-auto flex gap-2 pt-4">
          <Button
            needs="parts"
            look="strong"
            type="submit"
            disabled={save.isPending || (!!part && !form.changed && Object.keys(more).length === 0)}
          >
            {part ? "Save" : "Make the part"}
          </Button>
          {part && made && (
            <Button onClick={() => navigate(`/sheets/${encodeURIComponent(part.number)}`)}>
              {part.sheets ? "Open its sheet" : "Start its sheet"}
            </Button>
          )}
          {part && (
            <Button onClick={() => navigate(`/where-used/${encodeURIComponent(part.number)}`)}>Where used</Button>
          )}
          <Button className="ml-auto" onClick={() => onClose()}>
            {may ? "Leave without saving" : "Close"}
          </Button>
        </div>
      </form>
    </Panel>
  );
}
