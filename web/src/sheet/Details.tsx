import { type ReactNode, type Ref, useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { PartnerNames } from "../kit/PartnerNames";
import type { OperationRow, SheetView } from "../lib/api";
import type { LINE_KINDS } from "../lib/declared";
import { typed } from "../lib/number";
import { asNote, doneAt, OUTSIDE } from "./edits";
import type { BandRow, Line, LineRowOnScreen } from "./model";

type Kind = "text" | "partner" | "number" | "day" | "flag" | "list" | "choice" | "numbers";

interface Spec {
  name: string;
  label: string;
  kind: Kind;
  hint?: string;
  /** What it means when nothing is stated. */
  empty?: string;
  choices?: [string, string][];
}

const LINE_WORDS: Record<keyof typeof LINE_KINDS, string> = {
  component: "a component",
  byproduct: "a by-product, given back",
  text: "a note",
};

const LINE: Spec[] = [
  {
    name: "kind",
    label: "This line is",
    kind: "choice",
    choices: Object.entries(LINE_WORDS),
  },
  { name: "text", label: "Note", kind: "text" },
  {
    name: "quantity_basis",
    label: "Quantity counted",
    kind: "choice",
    choices: [
      ["per_unit", "per unit"],
      ["per_lot", "once per lot"],
    ],
  },
  { name: "fixed_loss", label: "Fixed loss per lot", kind: "number", hint: "set-up pieces, in the line's unit" },
  { name: "option", label: "Belongs to option", kind: "text" },
  {
    name: "option_action",
    label: "The option",
    kind: "choice",
    choices: [
      ["add", "adds this line"],
      ["remove", "takes this quantity away"],
    ],
  },
  { name: "reference_designators", label: "Reference designators", kind: "list", hint: "with commas" },
  { name: "effective_from", label: "In force from", kind: "day", empty: "the start" },
  { name: "effective_to", label: "Up to, not on", kind: "day", empty: "no end" },
  { name: "item_locked", label: "Item number locked: renumbering passes it by", kind: "flag" },
  { name: "customer_supplied", label: "Customer-supplied: counted, costs nothing", kind: "flag" },
  { name: "not_fitted", label: "Not fitted: stays on the list, counts nothing", kind: "flag" },
];

/** The lists a line can be kept off; it is counted all the same. */
const LISTS = [
  ["lines", "lines alone"],
  ["parts", "parts only"],
  ["top", "top level only"],
] as const;

const OPERATION: Spec[] = [
  {
    name: "run_basis",
    label: "Run time is",
    kind: "choice",
    choices: [
      ["per_unit", "per unit"],
      ["per_cycle", "per cycle"],
      ["per_lot", "once per lot"],
    ],
  },
  { name: "cycle_quantity", label: "One cycle holds", kind: "number" },
  { name: "yield_percent", label: "Yield, %", kind: "number", hint: "share of what it starts that goes on" },
  { name: "stations", label: "Stations that share the lot", kind: "number" },
  { name: "crew", label: "Crew", kind: "number" },
  { name: "setup_crew", label: "Set-up crew", kind: "number" },
  { name: "piece_rate", label: "Piece rate", kind: "number", hint: "in place of labor by time" },
  { name: "queue_minutes", label: "Queue, min", kind: "number" },
  { name: "wait_minutes", label: "Wait, min", kind: "number", hint: "nobody works: drying, curing" },
  { name: "move_minutes", label: "Move, min", kind: "number" },
  {
    name: "transfer_quantity",
    label: "Passes on after",
    kind: "number",
    hint: "so many: what follows may begin then; the whole lot when empty",
  },
  { name: "after", label: "Follows operations", kind: "numbers", hint: "with commas; the one before when empty" },
];
const NOT_OUTSIDE = [
  "run_basis",
  "cycle_quantity",
  "stations",
  "crew",
  "setup_crew",
  "piece_rate",
  "transfer_quantity",
];

const OUTSIDE_SPECS: Spec[] = [
  { name: "supplier", label: "Supplier", kind: "partner" },
  { name: "unit_price", label: "Price each", kind: "number" },
  { name: "minimum_charge", label: "Minimum charge", kind: "number", hint: "per lot" },
  { name: "lead_days", label: "Days away", kind: "number" },
];

interface Center {
  code: string;
  name: string;
  crew: string;
}

const WHERE: Spec = { name: "work_center", label: "Done at", kind: "choice" };

function whereChoices(centers: Center[]): [string, string][] {
  return [
    ...centers.map((c): [string, string] => [c.code, `${c.code} ${c.name}`]),
    [OUTSIDE, "outside, by a supplier"],
  ];
}

function asText(value: unknown): string {
  if (Array.isArray(value)) return value.join(", ");
  return value === null || value === undefined ? "" : String(value);
}

function fromText(kind: Kind, text: string): unknown {
  if (kind === "list")
    return text
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean);
  if (kind === "numbers")
    return text
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean);
  if (kind === "number") return typed(text) || null;
  return kind === "text" ? text : text || null;
}

export interface RefusedField {
  message: string;
  typed: unknown;
}

/** Every field of the line or operation under the cursor. */
export function Details({
  view,
  row,
  editable,
  centers,
  refused,
  onSet,
  onClose,
  panel,
  head,
}: {
  view: SheetView;
  row: LineRowOnScreen | BandRow;
  editable: boolean;
  centers: Center[];
  /** Why a field could not be kept, and what was typed into it. */
  refused: (field: string) => RefusedField | undefined;
  onSet: (after: Record<string, unknown>) => void;
  onClose: () => void;
  panel: Ref<HTMLElement>;
  /** What stands above the fields of an operation. */
  head?: ReactNode;
}) {
  const may = editable && row.own;
  const target: Line | OperationRow = row.kind === "line" ? row.line : row.operation;
  const outside = row.kind === "band" ? row.operation.subcontract : null;
  const fields = (specs: Spec[], from: object, wrap: (after: Record<string, unknown>) => Record<string, unknown>) =>
    specs.map((spec) => {
      const value = (from as Record<string, unknown>)[spec.name];
      const wrong = refused(spec.name);
      return (
        <One
          key={`${target.id}-${spec.name}-${asText(value)}-${wrong ? asText(wrong.typed) : ""}`}
          spec={spec}
          value={value}
          disabled={!may}
          wrong={wrong}
          onSet={(next) => onSet(wrap({ [spec.name]: next }))}
        />
      );
    });
  return (
    <section
      ref={panel}
      tabIndex={-1}
      aria-label="All fields"
      className="flex flex-col gap-2.5"
      onKeyDown={(event) => {
        if (event.key === "Escape") {
          event.stopPropagation();
          onClose();
        }
      }}
    >
      <div className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold text-blue">
          {row.kind === "line"
            ? `Item ${row.line.item ?? ""} ${row.part?.number ?? ""}`
            : `Operation ${row.operation.sequence}`}
        </h2>
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          close
        </Button>
      </div>
      {row.kind === "line" && (
        <>
          {fields(LINE.slice(0, 2), target, (after) =>
            after.kind === "text" ? asNote(row.line.text || row.part?.description || row.part?.number || "") : after,
          )}
          <One
            key={`${target.id}-operation-${row.line.operation}`}
            spec={{
              name: "operation",
              label: "Taken at",
              kind: "choice",
              choices: [
                ["", "the first operation"],
                ...view.operations
                  .filter((o) => o.parent === row.line.parent)
                  .map((o): [string, string] => [o.id, `${o.sequence} ${o.name}`]),
              ],
            }}
            value={row.line.operation}
            disabled={!may}
            wrong={refused("operation")}
            onSet={(value) => onSet({ operation: value || null })}
          />
          {fields(LINE.slice(2), target, (after) => after)}
          <fieldset className="flex flex-wrap gap-x-4 gap-y-1">
            <legend className="pb-1 text-ink-2">Not shown, but counted, on</legend>
            {LISTS.map(([list, words]) => (
              <label key={list} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  disabled={!may}
                  checked={row.line.kept_off.includes(list)}
                  onChange={(event) =>
                    onSet({
                      kept_off: LISTS.map(([name]) => name).filter((name) =>
                        name === list ? event.target.checked : row.line.kept_off.includes(name),
                      ),
                    })
                  }
                />
                {words}
              </label>
            ))}
          </fieldset>
        </>
      )}
      {row.kind === "band" && (
        <>
          {head}
          <One
            key={`${target.id}-${outside ? OUTSIDE : row.operation.work_center}`}
            spec={{ ...WHERE, choices: whereChoices(centers) }}
            value={outside ? OUTSIDE : row.operation.work_center}
            disabled={!may}
            wrong={refused("work_center")}
            onSet={(value) => onSet(doneAt(row.operation, String(value), centers))}
          />
          {outside && <PartnerNames id="suppliers" of="supplier" />}
          {outside && fields(OUTSIDE_SPECS, outside, (after) => ({ subcontract: { ...outside, ...after } }))}
          {fields(
            outside ? OPERATION.filter((o) => !NOT_OUTSIDE.includes(o.name)) : OPERATION,
            target,
            (after) => after,
          )}
        </>
      )}
    </section>
  );
}

/** The fields of an operation outside a routing; what is typed goes to `onSet`, nothing is saved yet. */
export function OperationFields({
  values,
  centers,
  disabled,
  wrong,
  onSet,
}: {
  values: Record<string, unknown>;
  centers: Center[];
  disabled: boolean;
  wrong: (field: string) => string | undefined;
  onSet: (after: Record<string, unknown>) => void;
}) {
  const outside = values.subcontract as Record<string, unknown> | null;
  const at = values.work_center ?? (outside ? OUTSIDE : "");
  const unchosen: [string, string][] = at === "" ? [["", "choose a work center"]] : [];
  const where: Spec = { ...WHERE, choices: [...unchosen, ...whereChoices(centers)] };
  const plain: Spec[] = [
    { name: "name", label: "Name", kind: "text" },
    where,
    ...(outside
      ? []
      : [
          { name: "setup_minutes", label: "Set-up, min", kind: "number" } as Spec,
          { name: "run_minutes", label: "Run, min", kind: "number" } as Spec,
        ]),
    ...OPERATION.filter((o) => o.name !== "after" && !(outside && NOT_OUTSIDE.includes(o.name))),
  ];
  const one = (spec: Spec, from: Record<string, unknown>, keep: (value: unknown) => void) => (
    <One
      key={`${spec.name}-${asText(from[spec.name])}`}
      spec={spec}
      value={spec === where ? at : from[spec.name]}
      disabled={disabled}
      wrong={wrong(spec.name) ? { message: wrong(spec.name)!, typed: from[spec.name] } : undefined}
      onSet={keep}
    />
  );
  return (
    <>
      {plain.map((spec) =>
        one(spec, values, (value) => {
          if (spec !== where) onSet({ [spec.name]: value });
          else if (value) onSet(doneAt(values, String(value), centers));
        }),
      )}
      {outside &&
        OUTSIDE_SPECS.map((spec) =>
          one(spec, outside, (value) => onSet({ subcontract: { ...outside, [spec.name]: value } })),
        )}
    </>
  );
}

function One({
  spec,
  value,
  disabled,
  wrong,
  onSet,
}: {
  spec: Spec;
  value: unknown;
  disabled: boolean;
  wrong?: RefusedField;
  onSet: (value: unknown) => void;
}) {
  const first = asText(value);
  const [text, setText] = useState(wrong ? asText(wrong.typed) : first);
  if (spec.kind === "flag")
    return (
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={value === true} disabled={disabled} onChange={(e) => onSet(e.target.checked)} />
        {spec.label}
      </label>
    );
  const keep = () => text !== first && onSet(fromText(spec.kind, text));
  return (
    <Field label={spec.label} hint={spec.hint} error={wrong?.message}>
      {(props) =>
        spec.kind === "choice" ? (
          <select
            {...props}
            className="field"
            disabled={disabled}
            value={first}
            onChange={(e) => onSet(e.target.value)}
          >
            {spec.choices?.map(([choice, words]) => (
              <option key={choice} value={choice}>
                {words}
              </option>
            ))}
          </select>
        ) : spec.kind === "day" ? (
          <DayField
            {...props}
            placeholder={spec.empty}
            disabled={disabled}
            value={text}
            onKeep={(iso) => onSet(iso || null)}
          />
        ) : (
          <input
            {...props}
            type="text"
            className={`field ${spec.kind === "number" ? "text-right" : ""}`}
            disabled={disabled}
            list={spec.kind === "partner" ? "suppliers" : undefined}
            value={text}
            onChange={(e) => setText(e.target.value)}
            onBlur={keep}
            onKeyDown={(e) => e.key === "Enter" && keep()}
          />
        )
      }
    </Field>
  );
}
