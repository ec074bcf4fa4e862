import { useQuery } from "@tanstack/react-query";
import { type Ref, useState } from "react";
import { Button } from "../../kit/Button";
import { answer, client } from "../../lib/api";
import type { LineValues } from "../../model/change";

/** What pasted rows will become, each to be kept or left out, before anything is. */
export function PastePanel({
  sheet,
  text,
  onKeep,
  onClose,
  panel,
}: {
  sheet: number;
  text: string;
  onKeep: (values: LineValues[]) => void;
  onClose: () => void;
  panel: Ref<HTMLElement>;
}) {
  const read = useQuery({
    queryKey: ["paste", sheet, text],
    queryFn: () =>
      answer(client.POST("/api/sheets/{sheet_id}/paste", { params: { path: { sheet_id: sheet } }, body: { text } })),
    staleTime: 0,
  });
  const [left, setLeft] = useState<Set<number>>(new Set());
  const rows = read.data?.rows ?? [];
  const kept = rows.filter((row) => row.problems.length === 0 && !left.has(row.row));
  return (
    <section
      ref={panel}
      tabIndex={-1}
      aria-label="What was pasted"
      onKeyDown={(event) => {
        if (event.key === "Escape") {
          event.stopPropagation();
          onClose();
        }
      }}
    >
      <h2 className="text-[12px] font-semibold text-blue">Pasted, not kept yet</h2>
      {read.error && (
        <p role="alert" className="py-2 text-bad">
          {read.error.message}
        </p>
      )}
      {read.data && (
        <p className="py-1 text-ink-2">
          {rows.length} {rows.length === 1 ? "row" : "rows"}, read as{" "}
          {read.data.columns.map((c) => c.replaceAll("_", " ")).join(", ")}.
        </p>
      )}
      <div className="flex gap-2 py-1.5">
        <Button
          look="strong"
          autoFocus
          disabled={kept.length === 0}
          onClick={() => onKeep(kept.map((row) => ({ ...row.values, ...(row.known ? {} : { make: "bought" }) })))}
        >
          Keep {kept.length} {kept.length === 1 ? "line" : "lines"}
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
      <ul>
        {rows.map((row) => (
          <li key={row.row} className="border-b border-hair py-1.5">
            <label className="flex items-baseline gap-2">
              <input
                type="checkbox"
                disabled={row.problems.length > 0}
                checked={row.problems.length === 0 && !left.has(row.row)}
                onChange={() =>
                  setLeft((old) => {
                    const next = new Set(old);
                    next.has(row.row) ? next.delete(row.row) : next.add(row.row);
                    return next;
                  })
                }
              />
              <span className="pn min-w-0 truncate">{row.part || "–"}</span>
              <span className="ml-auto whitespace-nowrap">
                {String(row.values.quantity ?? "–")}{" "}
                <span className="text-[12px] text-ink-3">{String(row.values.unit ?? "")}</span>
              </span>
            </label>
            <span className={`block truncate pl-6 text-[12px] ${row.known ? "text-ink-2" : "text-blue"}`}>
              {row.becomes}
            </span>
            {row.problems.map((problem) => (
              <span key={problem} className="block pl-6 text-[12px] font-semibold text-bad">
                row {row.row}: {problem}
              </span>
            ))}
            {row.looks.map((look) => (
              <span key={look} className="block pl-6 text-[12px] text-brass">
                {look}
              </span>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}
