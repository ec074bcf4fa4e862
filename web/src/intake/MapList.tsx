import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas, type SheetHead } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { useClasses } from "../pieces/parts/useParts";
import { PlanTable } from "./PlanTable";

const WORDS: Record<string, string> = {
  level: "level",
  parent: "parent part",
  item: "item number",
  part: "part number",
  description: "description",
  quantity: "quantity",
  unit: "unit",
  unit_cost: "unit cost",
  scrap_percent: "scrap %",
  reference_designators: "designators",
};

function letter(column: number): string {
  return column < 26 ? String.fromCharCode(65 + column) : letter(Math.floor(column / 26) - 1) + letter(column % 26);
}

/** The file as it stands with its columns named, and beneath it what every row becomes. */
export function MapList({ intake, onLeave }: { intake: Schemas["IntakeOut"]; onLeave: () => void }) {
  const [table, setTable] = useState(0);
  const at = intake.tables[table]!;
  const [header, setHeader] = useState(at.proposal.header);
  const [columns, setColumns] = useState<Record<string, number>>(at.proposal.columns);
  const [comma, setComma] = useState(at.proposal.comma);
  const [top, setTop] = useState("");
  const [numberClass, setNumberClass] = useState("");
  const running = useClasses().filter((c) => c.digits > 0);
  const say = useSay();
  const navigate = useNavigate();
  const untrue = useUntrue();
  const mapping = { table, header, columns, comma, top: useDeferredValue(top), number_class: numberClass };
  const plan = useQuery<Schemas["PlanOut"], Refusal>({
    queryKey: ["intake-plan", intake.id, mapping],
    queryFn: () =>
      answer(
        client.POST("/api/intake/{intake_id}/plan", { params: { path: { intake_id: intake.id } }, body: mapping }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const save = useMutation<SheetHead, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/intake/{intake_id}/save", {
          params: { path: { intake_id: intake.id } },
          body: { ...mapping, top },
        }),
      ),
    onSuccess: (sheet) => {
      untrue("everything");
      say(`Brought in ${intake.name}: ${sheet.part}, revision ${sheet.revision}, as a draft.`);
      navigate(`/sheets/${encodeURIComponent(sheet.part)}?sheet=${sheet.id}`);
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  const choose = (index: number) => {
    const next = intake.tables[index]!;
    setTable(index);
    setHeader(next.proposal.header);
    setColumns(next.proposal.columns);
    setComma(next.proposal.comma);
  };
  const name = (column: number, field: string) =>
    setColumns((old) => {
      const next = Object.fromEntries(Object.entries(old).filter(([known, c]) => c !== column && known !== field));
      if (field) next[field] = column;
      // Each of the two places a row in its own way, so choosing one lets the other go.
      if (field === "level") delete next.parent;
      if (field === "parent") delete next.level;
      return next;
    });
  const width = Math.max(1, ...at.rows.slice(0, 60).map((row) => row.length));
  const ready = plan.data && plan.data.stops === 0 && !plan.error && !plan.isPlaceholderData;
  const own = plan.data?.top && plan.data.top !== top;
  return (
    <div className="flex h-full flex-col gap-2 px-4 pt-3 pb-3">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-[20px] font-semibold">{intake.name}</h1>
        {intake.tables.length > 1 && (
          <select
            className="field !w-auto"
            aria-label="Sheet of the file"
            value={table}
            onChange={(e) => choose(Number(e.target.value))}
          >
            {intake.tables.map((t, i) => (
              <option key={t.name} value={i}>
                {t.name} ({t.count} rows)
              </option>
            ))}
          </select>
        )}
        <label className="flex items-center gap-2">
          This list is for part
          <input
            className="field pn !w-[170px]"
            autoFocus
            placeholder={own ? plan.data?.top : "part number"}
            value={top}
            onChange={(e) => setTop(e.target.value)}
          />
        </label>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={comma} onChange={(e) => setComma(e.target.checked)} /> decimal comma
        </label>
        {running.length > 0 && (
          <label className="flex items-center gap-1.5">
            rows without a number
            <select className="field !w-auto" value={numberClass} onChange={(e) => setNumberClass(e.target.value)}>
              <option value="">stop the list</option>
              {running.map((c) => (
                <option key={c.name} value={c.name}>
                  take the next of {c.name}
                </option>
              ))}
            </select>
          </label>
        )}
        <span className="ml-auto flex gap-2">
          <Button onClick={onLeave}>Another file</Button>
          <Button look="strong" disabled={!ready || save.isPending} onClick={() => save.mutate()}>
            Save as drafts
          </Button>
        </span>
      </div>
      <section
        aria-label="The file as it stands"
        className="max-h-[38%] min-h-[170px] shrink-0 overflow-auto border-t border-ink bg-paper"
        tabIndex={0}
      >
        <table className="min-w-full">
          <thead className="sticky top-0 z-10 bg-paper">
            <tr className="border-b border-hair-2">
              <th className="w-12 px-2 text-right text-[12px] font-normal text-ink-2">row</th>
              {Array.from({ length: width }, (_, column) => {
                const field = Object.entries(columns).find(([, c]) => c === column)?.[0] ?? "";
                return (
                  <th key={letter(column)} className="min-w-[96px] px-1 py-1 text-left font-normal">
                    <select
                      aria-label={`Column ${letter(column)} holds`}
                      className={`field !min-h-[26px] !px-1 ${field ? "font-semibold text-blue" : "text-ink-3"}`}
                      value={field}
                      onChange={(e) => name(column, e.target.value)}
                    >
                      <option value="">not read</option>
                      {intake.fields.map((f) => (
                        <option key={f} value={f}>
                          {WORDS[f]}
                        </option>
                      ))}
                    </select>
                  </th>
                );
              })}
            </tr>
          </thead>
          <tbody>
            {at.rows.slice(0, 60).map((row, index) => (
              <tr
                // biome-ignore lint/suspicious/noArrayIndexKey: a row of a file is its number
                key={index}
                className={`h-7 border-b border-hair ${index === header ? "bg-blue-tint font-semibold" : index < header ? "text-ink-3" : ""}`}
              >
                <td className="px-2 text-right">
                  <button
                    type="button"
                    className="text-ink-3 hover:text-blue hover:underline"
                    title="This row is the header"
                    aria-pressed={index === header}
                    aria-label={`Row ${index + 1} is the header`}
                    onClick={() => setHeader(index)}
                  >
                    {index + 1}
                  </button>
                </td>
                {Array.from({ length: width }, (_, column) => (
                  <td key={letter(column)} className="max-w-[260px] truncate px-2">
                    {row[column]}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <PlanTable
        plan={plan.data}
        error={plan.error?.message}
        stale={plan.isPlaceholderData}
        refused={save.error?.message}
      />
    </div>
  );
}
