import { PART_KINDS } from "../../lib/declared";
import { money, quantity, typed } from "../../lib/number";
import type { LineValues } from "../../model/change";
import { readOption } from "../../model/lines";
import type { LineRowOnScreen } from "../../model/rows";
import { counts, enoughFor, free, optionText, short, usageText } from "../../model/texts";
import type { Column } from "./column";
import { isNote, SHARED } from "./lineColumns";
import { ShareBar } from "./ShareBar";

/** Columns by reader. */
export type ColumnSet = "engineering" | "cost" | "stock" | "buying" | "shop" | "cutting" | "fields";
export const COLUMN_SETS: ColumnSet[] = ["engineering", "cost", "stock", "buying", "shop", "cutting", "fields"];

const quiet = (text: string | undefined | null) => <span className="truncate text-ink-2">{text}</span>;

const FIXED: Column = {
  key: "fixed",
  label: "Fixed loss",
  width: "66px",
  right: true,
  number: true,
  value: (r) => Number(r.line.fixed_loss) || null,
  show: (r) =>
    Number(r.line.fixed_loss) ? (
      quantity(r.line.fixed_loss)
    ) : (
      <span className="text-ink-3">{isNote(r) ? "" : "–"}</span>
    ),
  edit: {
    start: (r) => (Number(r.line.fixed_loss) ? r.line.fixed_loss : ""),
    apply: (text) => ({ fixed_loss: typed(text) || "0" }),
    fields: ["fixed_loss"],
  },
};

const perWords = (r: LineRowOnScreen) =>
  isNote(r) ? "" : r.line.quantity_basis === "per_lot" ? "per lot" : "per unit";

const PER: Column = {
  key: "per",
  label: "Counted",
  width: "66px",
  value: (r) => perWords(r) || null,
  show: (r) => <span className="text-ink-2">{perWords(r)}</span>,
  edit: {
    start: (r) => r.line.quantity_basis,
    choices: () => [
      ["per_unit", "per unit"],
      ["per_lot", "per lot"],
    ],
    apply: (text) => ({ quantity_basis: text as LineValues["quantity_basis"] }),
    fields: ["quantity_basis"],
  },
};

const OPTION: Column = {
  key: "option",
  label: "Option",
  width: "82px",
  value: (r) => optionText(r) || null,
  show: (r) => quiet(optionText(r)),
  edit: { start: optionText, apply: (text) => readOption(text), fields: ["option"] },
};

const USE: Column = {
  key: "use",
  label: "Use",
  width: "96px",
  value: (r) => usageText(r) || null,
  show: (r) => quiet(usageText(r)),
  edit: {
    start: (r) => (r.line.not_fitted ? "not_fitted" : r.line.customer_supplied ? "customer" : ""),
    choices: () => [
      ["", "counted"],
      ["customer", "customer-supplied"],
      ["not_fitted", "not fitted"],
    ],
    apply: (text) => ({ not_fitted: text === "not_fitted", customer_supplied: text === "customer" }),
    fields: ["not_fitted", "customer_supplied"],
  },
};

const NEEDED: Column = {
  key: "needed",
  label: "Needed",
  width: "86px",
  right: true,
  number: true,
  value: (r) => r.needed,
  show: (r) =>
    counts(r) ? (
      <span>
        {quantity(r.needed, r.needed! >= 100 ? 1 : 3)} <span className="text-[12px] text-ink-3">{r.part?.unit}</span>
      </span>
    ) : (
      <span className="truncate text-[12px] text-ink-3">{isNote(r) ? "" : optionText(r) || "–"}</span>
    ),
  figure: (r) => (counts(r) ? `gross:${r.line.id}` : null),
};

const UNIT_COST: Column = {
  key: "unit_cost",
  label: "Unit cost",
  width: "62px",
  right: true,
  number: true,
  value: (r) => (r.needed === null ? null : (r.part?.cost ?? null)),
  show: (r) => {
    const { part } = r;
    if (!counts(r) || !part) return "";
    if (part.unit_cost === null && !part.given && (part.kind === "bought" || part.kind === "charge"))
      return <span className="text-brass">missing</span>;
    return part.given ? (
      <span title={part.given}>
        <small className="mr-1 text-[11px] text-brass">by hand</small>
        {money(part.cost)}
      </span>
    ) : (
      money(part.cost)
    );
  },
  ofPart: {
    start: (part) => part.unit_cost ?? "",
    apply: (text) => ({ unit_cost: typed(text) }),
  },
  figure: (r) => (r.part && counts(r) ? `unit:${r.part.id}` : null),
};

const COST: Column = {
  key: "cost",
  label: "Cost",
  width: "62px",
  right: true,
  number: true,
  value: (r) => (r.needed === null ? null : (r.line.cost ?? 0) * r.share),
  show: (r) => <b className="font-semibold">{counts(r) ? money(r.line.cost! * r.share) : ""}</b>,
  figure: (r) => (counts(r) ? `line:${r.line.id}` : null),
};

/** A picture: it stands in no file and takes no cursor. */
const SHARE: Column = {
  key: "share",
  label: "Share",
  width: "76px",
  value: () => null,
  show: (r) => <ShareBar elements={r.line.elements} scale={r.share} />,
};

const SUPPLIER: Column = {
  key: "supplier",
  label: "Supplier",
  width: "124px",
  value: (r) => r.part?.supplier || null,
  show: ({ part }) => (
    <span className="truncate text-ink-2" title={part?.supplier_number ? `number ${part.supplier_number}` : undefined}>
      {part?.supplier}
    </span>
  ),
};

const boughtBy = ({ part }: LineRowOnScreen) => (part?.kind === "bought" ? (part.buying_unit ?? part.unit) : null);

const BOUGHT_BY: Column = {
  key: "buying_unit",
  label: "Bought by",
  width: "58px",
  value: boughtBy,
  show: (r) => quiet(boughtBy(r)),
};

const LEAD: Column = {
  key: "lead",
  label: "Days",
  width: "40px",
  right: true,
  number: true,
  value: ({ part }) => (part?.kind === "bought" ? part.lead_time_days : (part?.lead_days ?? null)),
  show: ({ part }) => (
    <span className="text-ink-2">{part?.kind === "bought" ? part.lead_time_days : quantity(part?.lead_days, 1)}</span>
  ),
};

/** An amount of a part in its stock unit; nothing for what is no stock. */
const amount = (
  key: string,
  label: string,
  of: (row: LineRowOnScreen) => number | null,
  look = "text-ink-2",
): Column => ({
  key,
  label,
  width: "56px",
  right: true,
  number: true,
  value: of,
  show: (r) => {
    const found = of(r);
    return found === null ? "" : <span className={found ? look : "text-ink-3"}>{quantity(found, 2)}</span>;
  },
});

const stocked = (r: LineRowOnScreen) => !!r.part && PART_KINDS[r.part.kind].stocked;
const ON_HAND = amount("on_hand", "On hand", (r) => (stocked(r) ? r.part!.on_hand : null));
const FREE = amount("free", "Free", (r) => (stocked(r) ? free(r.part!) : null));
const ON_ORDER = amount("on_order", "On order", (r) => (stocked(r) ? r.part!.on_order : null));
const SHORT = amount(
  "short",
  "Short",
  (r) => (counts(r) ? short(r.part, r.taken, r.job) : null),
  "font-semibold text-brass",
);
const ENOUGH = { ...amount("enough", "Enough for", enoughFor), width: "66px" };

const MATERIAL: Column = {
  key: "material",
  label: "Material",
  width: "108px",
  value: (r) => r.part?.material || null,
  show: ({ part }) => (
    <span className="truncate text-ink-2" title={part?.material}>
      {part?.material}
    </span>
  ),
};

const places = (r: LineRowOnScreen) => r.line.reference_designators.join(", ");

const PLACES: Column = {
  key: "places",
  label: "Places",
  width: "84px",
  value: (r) => places(r) || null,
  show: (r) => (
    <span className="truncate text-[12px] text-ink-2" title={places(r)}>
      {places(r)}
    </span>
  ),
};

const CUT: Column = {
  key: "cut",
  label: "Cut, for one",
  width: "204px",
  value: (r) => r.line.cut || null,
  show: (r) => (
    <span className="truncate text-ink-2" title={r.line.cut}>
      {r.line.cut}
    </span>
  ),
  edit: { start: (r) => r.line.cut, apply: (text) => ({ cut: text.trim() }), fields: ["cut"] },
};

const SETS: Record<ColumnSet, Column[]> = {
  engineering: [FIXED, PER, OPTION, USE],
  cost: [NEEDED, UNIT_COST, COST, SHARE],
  stock: [NEEDED, ON_HAND, FREE, ON_ORDER, SHORT, ENOUGH],
  buying: [NEEDED, SHORT, SUPPLIER, BOUGHT_BY, LEAD],
  shop: [NEEDED, MATERIAL, PLACES, USE],
  cutting: [NEEDED, CUT, USE],
  // Behind it stand the fields of classes, which differ from workspace to workspace.
  fields: [NEEDED],
};

export function columnsOf(set: ColumnSet): Column[] {
  return [...SHARED, ...SETS[set]];
}

/** Every column there is. */
export const ALL_COLUMNS: Column[] = [...SHARED, ...new Set(COLUMN_SETS.flatMap((set) => SETS[set]))];
