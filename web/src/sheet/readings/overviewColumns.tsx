import type { DataColumn } from "../../kit/dataColumns";
import type { Schemas } from "../../lib/api";
import { PART_KINDS } from "../../lib/declared";
import { ELEMENT_WORDS, ELEMENTS } from "../../lib/elements";
import { cents, money, quantity } from "../../lib/number";
import type { OverviewRow } from "../../model/overview";
import type { Model } from "../../model/product";
import { short } from "../../model/texts";
import type { PartRow } from "../../model/wire";

type Rolled = Schemas["FieldRolled"];

/** A figure that opens to its working. */
export function Opens({
  figure,
  onFigure,
  children,
}: {
  figure: string | null;
  onFigure: (figure: string) => void;
  children: React.ReactNode;
}) {
  if (figure === null) return <>{children}</>;
  return (
    <button
      type="button"
      className="hover:text-blue hover:underline"
      title="Open its working"
      onClick={() => onFigure(figure)}
    >
      {children}
    </button>
  );
}

const figures = (value: number) =>
  value.toLocaleString("en", { maximumSignificantDigits: 4 }).replaceAll(",", "\u202f");
const source = (part: PartRow) => [part.kind, part.supplier].filter(Boolean).join(", ");
const lead = (part: PartRow) => (part.kind === "bought" ? part.lead_time_days : (part.lead_days ?? null));

export const STATED: DataColumn<OverviewRow>[] = [
  { key: "level", title: "Level", width: "38px", number: true, off: true, value: (r) => r.level },
  { key: "item", title: "Item", width: "36px", number: true, off: true, value: (r) => r.line?.item ?? null },
  {
    key: "description",
    title: "Description",
    width: "minmax(120px,1fr)",
    value: (r) => r.part?.description ?? null,
  },
  {
    key: "source",
    title: "Source",
    width: "minmax(50px,96px)",
    groups: true,
    value: (r) => (r.part ? source(r.part) : "work"),
    show: (r) => <span className="text-ink-2">{r.part && source(r.part)}</span>,
  },
  {
    key: "class",
    title: "Class",
    width: "84px",
    groups: true,
    off: true,
    value: (r) => r.part?.part_class ?? null,
  },
  {
    key: "quantity",
    title: "In one",
    width: "68px",
    number: true,
    value: (r) => r.quantity,
    show: (r) => (r.quantity === null ? "" : `${quantity(r.quantity, 3)} ${r.part!.unit}`),
  },
  { key: "unit", title: "Unit", width: "28px", off: true, value: (r) => r.part?.unit ?? null },
];

/** A column for every element that costs something anywhere in the product. */
export function elementColumns(model: Model): DataColumn<OverviewRow>[] {
  const top = model.view.parts[model.view.top]!.elements ?? {};
  return ELEMENTS.filter((name) => top[name]).map((name) => ({
    key: name,
    title: ELEMENT_WORDS[name],
    width: "47px",
    number: true,
    costs: true,
    value: (r) => r.elements[name] ?? null,
    show: (r) =>
      r.elements[name] ? (
        <span className="text-ink-2" title={money(r.elements[name])}>
          {cents(r.elements[name])}
        </span>
      ) : (
        ""
      ),
  }));
}

export function thereColumns(job: boolean): DataColumn<OverviewRow>[] {
  const of = (r: OverviewRow) => (r.part && PART_KINDS[r.part.kind].stocked ? r.part : null);
  return [
    {
      key: "on_hand",
      title: "On hand",
      width: "52px",
      number: true,
      value: (r) => of(r)?.on_hand ?? null,
      show: (r) => of(r) && quantity(of(r)!.on_hand, 1),
    },
    {
      key: "short",
      title: "Short",
      width: "44px",
      number: true,
      value: (r) => short(of(r), r.taken, job),
      show: (r) => {
        const lacks = short(of(r), r.taken, job);
        return lacks ? <span className="text-brass">{quantity(lacks, 1)}</span> : "";
      },
    },
    {
      key: "lead",
      title: "Days",
      width: "36px",
      number: true,
      value: (r) => (r.part ? lead(r.part) : null),
      show: (r) => <span className="text-ink-2">{r.part && quantity(lead(r.part), 1)}</span>,
    },
  ];
}

/** A column for every field that rolls up (rule C6), for one of the part. */
export function fieldColumns(
  rolled: Schemas["RolledOut"] | undefined,
  onFigure: (figure: string) => void,
): DataColumn<OverviewRow>[] {
  if (!rolled) return [];
  const at = new Map(rolled.parts.map((key, row) => [key, row]));
  return rolled.fields.map((field: Rolled) => {
    const value = (r: OverviewRow) => (r.part ? (field.values[at.get(r.part.id) ?? -1] ?? null) : null);
    const word = (r: OverviewRow) => {
      const found = value(r);
      return found === null ? null : field.how === "worst" ? field.choices[found]! : found;
    };
    return {
      key: field.name,
      title: field.unit ? `${field.title}, ${field.unit}` : field.title,
      width: "60px",
      number: field.how !== "worst",
      value: word,
      show: (r) => {
        const found = word(r);
        if (found === null) return "";
        const partial = field.partial[at.get(r.part!.id)!];
        return (
          <Opens figure={`field:${r.part!.id}:${field.name}`} onFigure={onFigure}>
            {partial && (
              <span className="text-brass" title="at least: something that goes in says nothing">
                ≥{" "}
              </span>
            )}
            {typeof found === "number" ? figures(found) : found}
          </Opens>
        );
      },
    };
  });
}
