import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { FIELD_KINDS } from "../lib/declared";
import { useUntrue } from "../lib/untrue";
import type { PartClass } from "../pieces/parts/useParts";

type Own = Schemas["FieldOut"];

const runs = (c: Pick<PartClass, "prefix" | "digits" | "start" | "step">) =>
  c.digits
    ? `${c.prefix}${String(c.start).padStart(c.digits, "0")}, ${c.prefix}${String(c.start + c.step).padStart(c.digits, "0")} …`
    : "no running numbers";

/** How a field of a kind can roll up over a structure. */
const WAYS: Record<Own["rolls_up"], string> = {
  "": "no roll-up",
  sum: "adds up",
  largest: "the largest",
  worst: "the worst, the last",
};
const ways = (kind: Own["kind"]): Own["rolls_up"][] =>
  kind === "choice" ? ["", "worst"] : kind === "text" || kind === "date" ? [""] : ["", "sum", "largest"];

/** A class: how its numbers run, and its fields. */
export function ClassForm({
  held,
  may,
  onSaved,
}: {
  held: PartClass;
  may: boolean;
  onSaved: (saved: PartClass) => void;
}) {
  const [name, setName] = useState(held.name);
  const [prefix, setPrefix] = useState(held.prefix);
  const [digits, setDigits] = useState(held.digits ? String(held.digits) : "");
  const [start, setStart] = useState(String(held.start));
  const [step, setStep] = useState(String(held.step));
  // A key of its own for each row: one may be taken away while another is typed in.
  const [fields, setFields] = useState(() => held.fields.map((own, key) => ({ ...own, key })));
  const keys = useRef(held.fields.length);
  const say = useSay();
  const untrue = useUntrue();
  const whole = (text: string) => (/^\d{1,9}$/.test(text.trim()) ? Number(text) : Number.NaN);
  const plan = {
    name: name.trim(),
    prefix: prefix.trim(),
    digits: digits.trim() ? whole(digits) : 0,
    start: whole(start),
    step: whole(step),
  };
  const save = useMutation<PartClass, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/parts/classes", {
          params: { query: held.name ? { name: held.name } : {} },
          body: {
            ...plan,
            fields: fields.map(({ key: _key, ...own }) => own),
            version: held.name ? held.version : null,
          },
        }),
      ),
    onSuccess: (saved) => {
      say(held.name ? `Saved class ${saved.name}.` : `Made class ${saved.name}.`);
      untrue("class");
      onSaved(saved);
    },
  });
  const wrong = (place: string) => save.error?.of(place);
  const general = save.error?.problems.every((p) => p.place === "" || p.place === "fields");
  const change = (index: number, next: Partial<Own>) =>
    setFields(fields.map((f, i) => (i === index ? { ...f, ...next } : f)));
  const bad = [plan.digits, plan.start, plan.step].some(Number.isNaN);
  return (
    <form
      className="flex flex-col gap-3 overflow-y-auto border-t border-ink bg-paper p-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <div className="grid grid-cols-[1fr_140px_90px_90px_90px] gap-3">
        <Field label="Class" error={wrong("name")}>
          {(p) => (
            <input
              {...p}
              className="field"
              autoFocus
              disabled={!may}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          )}
        </Field>
        <Field label="Prefix" error={wrong("prefix")}>
          {(p) => (
            <input
              {...p}
              className="field pn"
              disabled={!may}
              value={prefix}
              onChange={(e) => setPrefix(e.target.value)}
            />
          )}
        </Field>
        {(
          [
            ["Digits", "digits", digits, setDigits],
            ["Start", "start", start, setStart],
            ["Step", "step", step, setStep],
          ] as const
        ).map(([label, place, value, set]) => (
          <Field
            key={place}
            label={label}
            error={wrong(place) ?? (Number.isNaN(plan[place]) ? "a whole number" : undefined)}
          >
            {(p) => (
              <input
                {...p}
                className="field text-right"
                disabled={!may}
                value={value}
                onChange={(e) => set(e.target.value)}
              />
            )}
          </Field>
        ))}
      </div>
      <p className="text-ink-2">
        Numbers: <span className="pn">{bad ? "–" : runs(plan)}</span>
      </p>
      <h2 className="pt-1 text-[15px] font-semibold">Fields of its parts</h2>
      {fields.length > 0 && (
        <table className="w-full table-fixed">
          <thead>
            <tr className="h-7 border-b border-hair-2 text-left text-[12px] text-ink-2">
              <th className="w-[180px] font-normal">Name</th>
              <th className="w-[120px] font-normal">Kind</th>
              <th className="w-[90px] font-normal">Unit</th>
              <th className="font-normal">Choices, or the expression</th>
              <th className="w-[124px] font-normal">Over the structure</th>
              <th className="w-[80px]" />
            </tr>
          </thead>
          <tbody>
            {fields.map((own, index) => {
              const place = `fields[${index}]`;
              const said = ["name", "kind", "unit", "choices", "expression", "rolls_up"]
                .map((f) => wrong(`${place}.${f}`))
                .filter(Boolean);
              const label = (word: string) => `${word} of field ${index + 1}`;
              return (
                <tr key={own.key} className="border-b border-hair align-top">
                  <td className="py-1 pr-2">
                    <input
                      className="field pn"
                      aria-label={label("Name")}
                      aria-invalid={!!wrong(`${place}.name`)}
                      disabled={!may}
                      value={own.name}
                      onChange={(e) => change(index, { name: e.target.value.replaceAll(" ", "_") })}
                    />
                    {said.map((words) => (
                      <span key={words} role="alert" className="block text-[12px] whitespace-normal text-bad">
                        {words}
                      </span>
                    ))}
                  </td>
                  <td className="py-1 pr-2">
                    <select
                      className="field"
                      aria-label={label("Kind")}
                      disabled={!may}
                      value={own.kind}
                      onChange={(e) =>
                        change(index, { kind: e.target.value as (typeof FIELD_KINDS)[number], rolls_up: "" })
                      }
                    >
                      {FIELD_KINDS.map((kind) => (
                        <option key={kind}>{kind}</option>
                      ))}
                    </select>
                  </td>
                  <td className="py-1 pr-2">
                    {(own.kind === "number" || own.kind === "computed") && (
                      <input
                        className="field"
                        aria-label={label("Unit")}
                        disabled={!may}
                        value={own.unit}
                        onChange={(e) => change(index, { unit: e.target.value.trim() })}
                      />
                    )}
                  </td>
                  <td className="py-1 pr-2">
                    {own.kind === "choice" && (
                      <input
                        className="field"
                        aria-label={label("Choices")}
                        placeholder="bright, black"
                        disabled={!may}
                        defaultValue={own.choices?.join(", ")}
                        onBlur={(e) =>
                          change(index, {
                            choices: e.target.value
                              .split(",")
                              .map((c) => c.trim())
                              .filter(Boolean),
                          })
                        }
                      />
                    )}
                    {own.kind === "computed" && (
                      <input
                        className="field pn"
                        aria-label={label("Expression")}
                        placeholder="length_mm * width_mm / 1000000"
                        disabled={!may}
                        value={own.expression}
                        onChange={(e) => change(index, { expression: e.target.value })}
                      />
                    )}
                  </td>
                  <td className="py-1 pr-2">
                    {ways(own.kind).length > 1 && (
                      <select
                        className="field"
                        aria-label={label("Over the structure")}
                        aria-invalid={!!wrong(`${place}.rolls_up`)}
                        disabled={!may}
                        value={own.rolls_up}
                        onChange={(e) => change(index, { rolls_up: e.target.value as Own["rolls_up"] })}
                      >
                        {ways(own.kind).map((way) => (
                          <option key={way} value={way}>
                            {WAYS[way]}
                          </option>
                        ))}
                      </select>
                    )}
                  </td>
                  <td className="py-1 text-right">
                    <Button
                      needs="parts"
                      look="quiet"
                      aria-label={`take away field ${index + 1}`}
                      onClick={() => setFields(fields.filter((_, i) => i !== index))}
                    >
                      take away
                    </Button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <p className="text-[12px] text-ink-3">
        A computed field is arithmetic over the other fields and over unit_cost, overhead_percent, costing_lot,
        lead_time_days and mass_kg; it knows min, max, round, abs, sqrt, and “a if b &gt; 0 else c”.
      </p>
      {general && (
        <p role="alert" className="text-bad">
          {save.error?.message}
        </p>
      )}
      {
        <div className="flex gap-2">
          <Button
            needs="parts"
            onClick={() =>
              setFields([
                ...fields,
                { name: "", kind: "text", unit: "", choices: [], expression: "", rolls_up: "", key: keys.current++ },
              ])
            }
          >
            Add a field
          </Button>
          <Button needs="parts" look="strong" type="submit" disabled={save.isPending || bad}>
            {held.name ? "Save the class" : "Make the class"}
          </Button>
        </div>
      }
    </form>
  );
}
