import type { ReactNode, Ref } from "react";
import { Button } from "../../kit/Button";
import { PartnerNames } from "../../kit/PartnerNames";
import type { LINE_KINDS } from "../../lib/declared";
import type { Line } from "../../model/change";
import { asNote } from "../../model/lines";
import { doneAt, OUTSIDE } from "../../model/operations";
import type { BandRow, LineRowOnScreen } from "../../model/rows";
import type { OperationRow, SheetView } from "../../model/wire";
import { CameFrom } from "../../pieces/CameFrom";
import { One, type RefusedField } from "../../pieces/fields/One";
import {
  asText,
  BESIDE,
  type Center,
  NOT_OUTSIDE,
  OPERATION,
  OUTSIDE_SPECS,
  type Spec,
  WHERE,
  whereChoices,
} from "../../pieces/fields/specs";

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
            : `${row.operation.beside === null ? "Operation" : "Beside operation"} ${row.operation.sequence}`}
        </h2>
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          close
        </Button>
      </div>
      {row.kind === "line" && (
        <>
          <CameFrom sheet={view.sheet.id} line={row.line.id} />
          {fields(LINE.slice(0, 2), target, (after) =>
            after.kind === "text" ? asNote(row.line.text || row.part?.description || row.part?.number || "") : after,
          )}
          <One
            key={`${target.id}-operation-${row.line.operation}`}
            spec={{
              name: "operation",
              label: "Goes in at",
              kind: "choice",
              choices: [
                ["", "the first operation"],
                ...view.operations
                  .filter((o) => o.parent === row.line.parent && o.beside === null)
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
            spec={{ ...WHERE, choices: whereChoices(centers, row.operation.beside === null) }}
            value={outside ? OUTSIDE : row.operation.work_center}
            disabled={!may}
            wrong={refused("work_center")}
            onSet={(value) => onSet(doneAt(row.operation, String(value), centers))}
          />
          {outside && <PartnerNames id="suppliers" of="supplier" />}
          {outside && fields(OUTSIDE_SPECS, outside, (after) => ({ subcontract: { ...outside, ...after } }))}
          {fields(
            row.operation.beside !== null
              ? OPERATION.filter((o) => BESIDE.includes(o.name))
              : outside
                ? OPERATION.filter((o) => !NOT_OUTSIDE.includes(o.name))
                : OPERATION,
            target,
            (after) => after,
          )}
        </>
      )}
    </section>
  );
}
