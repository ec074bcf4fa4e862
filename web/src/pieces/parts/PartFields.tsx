import type { ReactNode } from "react";
import { Button } from "../../kit/Button";
import { Field } from "../../kit/Field";
import { PartnerNames } from "../../kit/PartnerNames";
import { useReference, useSeesCosts } from "../../lib/session";
import { OwnFields } from "./OwnFields";
import { GIVEN_AS_WORDS, KIND_WORDS, LIFECYCLE_WORDS, MORE, type Name, NUMBERS } from "./partFields";
import type { PartFormState } from "./usePartForm";

const LISTS: Partial<Record<Name, string>> = { part_class: "part-classes", supplier: "suppliers" };

/** One text or number of a part. */
function Plain({ of, name, label, hint }: { of: PartFormState; name: Name; label: string; hint?: string }) {
  const number = (NUMBERS as readonly string[]).includes(name);
  return (
    <Field label={label} hint={hint} error={of.wrong(name)}>
      {(p) => (
        <input
          {...p}
          {...of.form.bind(name)}
          className={`field ${number ? "text-right" : ""}`}
          inputMode={number ? "decimal" : undefined}
          list={LISTS[name]}
          disabled={!of.may}
        />
      )}
    </Field>
  );
}

function Choice({
  of,
  name,
  label,
  words,
}: {
  of: PartFormState;
  name: Name;
  label: string;
  words: [string, string][];
}) {
  return (
    <Field label={label} error={of.wrong(name)}>
      {(p) => (
        <select {...p} {...of.form.bind(name)} className="field" disabled={!of.may}>
          {words.map(([value, shown]) => (
            <option key={value} value={value}>
              {shown}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}

function Folded({
  title,
  beside,
  open,
  children,
}: {
  title: string;
  beside: string;
  open: boolean;
  children: ReactNode;
}) {
  return (
    <details open={open || undefined}>
      <summary className="cursor-pointer py-1 font-semibold text-ink-2">
        {title}
        <span className="ml-2 font-normal text-ink-3">{beside}</span>
      </summary>
      <div className="grid grid-cols-2 gap-3 pt-1 pb-2">{children}</div>
    </details>
  );
}

/** Every stated field of a part, those of its class included. */
export function PartFields({ of }: { of: PartFormState }) {
  const { part, form, made, may, wrong, ofClass } = of;
  const { values } = form;
  const reference = useReference().data;
  const costs = useSeesCosts();
  return (
    <>
      <Field label="Part number" error={wrong("number")}>
        {(p) => (
          <span className="flex gap-1.5">
            <input {...p} {...form.bind("number")} className="field pn" autoFocus={!part} disabled={!may} />
            {!part && !!ofClass?.digits && (
              <Button
                className="!px-2"
                title={`The next number of ${ofClass.name}`}
                disabled={of.next.isPending}
                onClick={() => of.next.mutate()}
              >
                Next
              </Button>
            )}
          </span>
        )}
      </Field>
      <Field label="Description" error={wrong("description")}>
        {(p) => <input {...p} {...form.bind("description")} className="field" autoFocus={!!part} disabled={!may} />}
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Choice of={of} name="kind" label="Kind" words={Object.entries(KIND_WORDS)} />
        <Choice
          of={of}
          name="unit"
          label="Stock unit"
          words={(reference?.units ?? []).map((u) => [u.symbol, `${u.symbol} — ${u.measures}`])}
        />
        {costs && !made && (
          <Plain
            of={of}
            name="unit_cost"
            label="Unit cost"
            hint={`${reference?.currency ?? ""} per ${values.unit}${part?.prices.length ? "; before the first price with a day" : ""}`}
          />
        )}
        {costs && values.kind === "bought" && <Plain of={of} name="overhead_percent" label="Material overhead, %" />}
        {values.kind === "made" && (
          <Plain of={of} name="costing_lot" label="Costing lot" hint={`${values.unit}; 1 when empty`} />
        )}
        {costs && <Plain of={of} name="selling_price" label="Selling price" />}
        <Plain of={of} name="lead_time_days" label="Lead time, days" />
        <Choice of={of} name="lifecycle" label="Lifecycle" words={Object.entries(LIFECYCLE_WORDS)} />
        <Plain of={of} name="part_class" label="Class" />
      </div>
      <Flags of={of} made={made} />
      {ofClass && ofClass.fields.length > 0 && (
        <details open>
          <summary className="cursor-pointer py-1 font-semibold text-ink-2">Fields of {ofClass.name}</summary>
          <OwnFields
            partClass={ofClass}
            values={of.own}
            computed={part?.part_class === ofClass.name ? part.computed : {}}
            wrong={wrong}
            may={may}
            onChange={of.setOwn}
          />
        </details>
      )}
      {costs && values.kind !== "phantom" && (
        <Folded
          title="Cost given by hand"
          beside={values.given_cost || (values.markup_percent && `${values.markup_percent} % over the roll-up`)}
          open={
            part?.given_cost != null ||
            part?.markup_percent != null ||
            ["given_cost", "markup_percent", "given_reason"].some((n) => wrong(n))
          }
        >
          <Field label="Cost" hint="instead of the roll-up" error={wrong("given_cost")}>
            {(p) => (
              <input
                {...p}
                {...form.bind("given_cost")}
                onChange={(event) => of.giveCost(event.target.value)}
                className="field text-right"
                inputMode="decimal"
                disabled={!may}
              />
            )}
          </Field>
          {made && <Choice of={of} name="given_as" label="Its elements" words={Object.entries(GIVEN_AS_WORDS)} />}
          <Plain of={of} name="markup_percent" label="or markup, %" hint="over the roll-up; in the element other" />
          <div className="col-span-2">
            <Plain of={of} name="given_reason" label="Why" hint="shown wherever the cost is" />
          </div>
        </Folded>
      )}
      {MORE.map(([about, fields]) => (
        <Folded
          key={about}
          title={about}
          beside={fields
            .map(([name]) => values[name])
            .filter(Boolean)
            .join(" · ")
            .slice(0, 48)}
          open={fields.some(([name]) => wrong(name))}
        >
          {fields.map(([name, label, hint]) => (
            <Plain key={name} of={of} name={name} label={label} hint={hint} />
          ))}
        </Folded>
      ))}
      <PartnerNames id="suppliers" of="supplier" />
      <datalist id="part-classes">
        {of.classes.map((c) => (
          <option key={c.name} value={c.name} />
        ))}
      </datalist>
    </>
  );
}

function Flags({ of, made }: { of: PartFormState; made: boolean }) {
  const { may, sold, unmodelled, wrong } = of;
  return (
    <div className="flex flex-wrap gap-x-5 gap-y-1">
      {made && (
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={sold} disabled={!may} onChange={() => of.setSold(!sold)} />
          sold on its own, too
        </label>
      )}
      {(of.form.values.kind === "bought" || unmodelled) && (
        <label className="flex items-center gap-2" title="Glue, grease, paint, labels, packaging">
          <input type="checkbox" checked={unmodelled} disabled={!may} onChange={() => of.setUnmodelled(!unmodelled)} />
          on no drawing: offered to every sheet
        </label>
      )}
      {wrong("unmodelled") && (
        <span role="alert" className="text-[12px] text-bad">
          {wrong("unmodelled")}
        </span>
      )}
    </div>
  );
}
