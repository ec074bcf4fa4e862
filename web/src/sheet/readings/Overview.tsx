import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { DataTable } from "../../kit/DataTable";
import type { DataColumn } from "../../kit/dataColumns";
import { answer, client, type Schemas } from "../../lib/api";
import type { Basis } from "../../lib/basis";
import { PART_KINDS } from "../../lib/declared";
import { ELEMENT_WORDS, ELEMENTS } from "../../lib/elements";
import { money, quantity } from "../../lib/number";
import { depthOf, MOST_ROWS, type OverviewRow, overviewRows } from "../../model/overview";
import type { Model } from "../../model/product";
import { short } from "../../model/texts";
import { type PartRow, stateOf } from "../../model/wire";
import { AlternatesLine } from "../../pieces/parts/AlternatesLine";
import { FromStock } from "../../pieces/parts/FromStock";

type Rolled = Schemas["FieldRolled"];

/** Every level of a product at once: what each line costs by element, where it comes from, and whether it is there. */
export function Overview({
  model,
  basis,
  onPart,
  onFigure,
}: {
  model: Model;
  basis: Basis;
  onPart: (part: PartRow) => void;
  onFigure: (figure: string) => void;
}) {
  const { view } = model;
  const deep = useMemo(() => depthOf(model), [model]);
  const [level, setLevel] = useState(view.lines.length > 80 ? 1 : 99);
  const [turned, setTurned] = useState<Set<string>>(new Set());
  const to = (next: number) => {
    setLevel(next);
    setTurned(new Set());
  };
  const { rows, whole } = useMemo(
    () => overviewRows(model, (key, at) => at < level !== turned.has(key)),
    [model, level, turned],
  );
  const fields = useQuery({
    queryKey: ["sheets", "fields", view.sheet.id, stateOf(view), basis],
    queryFn: () => answer(client.GET("/api/costing/fields", { params: { query: { sheet: view.sheet.id, ...basis } } })),
  });
  const columns = useMemo<DataColumn<OverviewRow>[]>(() => {
    const turn = (key: string) =>
      setTurned((old) => {
        const next = new Set(old);
        next.has(key) ? next.delete(key) : next.add(key);
        return next;
      });
    return [
      {
        key: "part",
        title: "Part",
        width: "minmax(150px,190px)",
        value: (r) => r.part?.number ?? `work on ${r.worksOn!.number}`,
        show: (r) => <PartCell row={r} onTurn={turn} onPart={onPart} />,
      },
      ...STATED,
      {
        key: "cost",
        title: `Cost, ${view.currency}`,
        width: "62px",
        number: true,
        value: (r) => r.cost,
        show: (r) => (
          <Opens
            figure={r.level === 0 ? `unit:${r.part!.id}` : r.line ? `line:${r.line.id}` : null}
            onFigure={onFigure}
          >
            <b className="font-semibold">{r.cost === null ? "" : money(r.cost)}</b>
          </Opens>
        ),
      },
      ...thereColumns(view.basis.quantity !== null),
      ...fieldColumns(fields.data, onFigure),
      ...elementColumns(model),
    ];
  }, [model, view, fields.data, onPart, onFigure]);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys of the table within; each has its button as well
    <div
      className="flex min-h-0 flex-1 flex-col"
      onKeyDown={(event) => {
        const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement;
        if (typing || event.ctrlKey || event.altKey || event.metaKey || !/^[0-9]$/.test(event.key)) return;
        event.preventDefault();
        to(event.key === "0" ? 99 : Number(event.key));
      }}
    >
      <div className="flex flex-wrap items-baseline gap-x-6 pb-1.5">
        <AlternatesLine number={view.sheet.part} sheet={view.sheet.id} />
        <FromStock sheet={view.sheet.id} basis={basis} unit={view.parts[view.top]!.unit} state={stateOf(view)} />
      </div>
      <DataTable
        name="overview"
        title={`${view.sheet.part} overview`}
        columns={columns}
        rows={rows}
        beside={
          <span className="flex items-baseline gap-1 text-ink-2" title="keys 1 to 9, and 0 for all">
            open to level
            {Array.from({ length: Math.min(Math.max(deep, 1), 9) }, (_, at) => at + 1).map((at) => (
              <button
                key={at}
                type="button"
                aria-pressed={level === at}
                className="h-6 min-w-6 px-1 hover:text-blue aria-pressed:font-semibold aria-pressed:text-blue"
                onClick={() => to(at)}
              >
                {at}
              </button>
            ))}
            <button
              type="button"
              aria-pressed={level >= deep}
              className="h-6 min-w-6 px-1 hover:text-blue aria-pressed:font-semibold aria-pressed:text-blue"
              onClick={() => to(99)}
            >
              all
            </button>
            {!whole && <span className="text-brass">the first {quantity(MOST_ROWS)} rows</span>}
          </span>
        }
      />
    </div>
  );
}

function PartCell({
  row,
  onTurn,
  onPart,
}: {
  row: OverviewRow;
  onTurn: (key: string) => void;
  onPart: (part: PartRow) => void;
}) {
  const { part, level, opens, open } = row;
  return (
    <span className="flex items-baseline" style={{ marginLeft: Math.max(0, level - 1) * 12 - 8 }}>
      {opens ? (
        <button
          type="button"
          className="w-6 shrink-0 text-ink-3 hover:text-blue"
          aria-label={`${open ? "close" : "open"} ${part!.number}`}
          aria-expanded={open}
          onClick={() => onTurn(row.key)}
        >
          {open ? "−" : "+"}
        </button>
      ) : (
        <span className="w-6 shrink-0" />
      )}
      {part === null ? (
        <span className="truncate text-ink-2">work on {row.worksOn!.number}</span>
      ) : (
        <button type="button" className="pn truncate text-blue hover:underline" onClick={() => onPart(part)}>
          {part.number}
        </button>
      )}
    </span>
  );
}

function Opens({
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

/** Two places: a row of elements is read as a whole, and each of them opens. */
const cents = (value: number) =>
  value.toLocaleString("en", { minimumFractionDigits: 2, maximumFractionDigits: 2 }).replaceAll(",", "\u202f");
const figures = (value: number) =>
  value.toLocaleString("en", { maximumSignificantDigits: 4 }).replaceAll(",", "\u202f");
const source = (part: PartRow) => [part.kind, part.supplier].filter(Boolean).join(", ");
const lead = (part: PartRow) => (part.kind === "bought" ? part.lead_time_days : (part.lead_days ?? null));

const STATED: DataColumn<OverviewRow>[] = [
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
function elementColumns(model: Model): DataColumn<OverviewRow>[] {
  const top = model.view.parts[model.view.top]!.elements ?? {};
  return ELEMENTS.filter((name) => top[name]).map((name) => ({
    key: name,
    title: ELEMENT_WORDS[name],
    width: "47px",
    number: true,
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

function thereColumns(job: boolean): DataColumn<OverviewRow>[] {
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
      value: (r) => short(of(r), job),
      show: (r) => {
        const lacks = short(of(r), job);
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
function fieldColumns(
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
