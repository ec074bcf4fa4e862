import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { DataColumn } from "../../kit/dataColumns";
import { answer, client } from "../../lib/api";
import type { Basis } from "../../lib/basis";
import { money, quantity } from "../../lib/number";
import { depthOf, MOST_ROWS, type OverviewRow, overviewRows } from "../../model/overview";
import type { Model } from "../../model/product";
import { type PartRow, stateOf } from "../../model/wire";
import { AlternatesLine } from "../../pieces/parts/AlternatesLine";
import { FromStock } from "../../pieces/parts/FromStock";
import { PartTable } from "../../pieces/parts/PartTable";
import { elementColumns, fieldColumns, Opens, STATED, thereColumns } from "./overviewColumns";

const numberOf = (r: OverviewRow) => r.part?.number ?? null;

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
  const rolled = useMemo(
    () => fields.data?.fields.map((f) => (f.unit ? `${f.title}, ${f.unit}` : f.title)),
    [fields.data],
  );
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
        costs: true,
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
      {/* As high before it is known as after: rows do not move from under a click. */}
      <div className="flex min-h-[30px] flex-wrap items-baseline gap-x-6 pb-1.5">
        <AlternatesLine number={view.sheet.part} sheet={view.sheet.id} />
        <FromStock sheet={view.sheet.id} basis={basis} unit={view.parts[view.top]!.unit} state={stateOf(view)} />
      </div>
      <PartTable
        numberOf={numberOf}
        but={rolled}
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
