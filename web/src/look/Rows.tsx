import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";
import { Link } from "react-router";
import { answer, client } from "../lib/api";
import { quantity } from "../lib/number";

/** What stands in a model, each once, with how often it stands there and how often our sheets take it. */
export function Rows({
  number,
  chosen,
  first,
  onChoose,
}: {
  number: string;
  chosen: string | null;
  /** A part that is chosen at the beginning, by our number. */
  first: string;
  onChoose: (name: string | null) => void;
}) {
  const list = useRef<HTMLDivElement>(null);
  const model = useQuery({
    queryKey: ["part", number, "model"],
    queryFn: () => answer(client.GET("/api/parts/one/model", { params: { query: { number } } })),
  });
  const begun = useRef(false);
  const rows = useMemo(() => model.data?.rows ?? [], [model.data]);
  useEffect(() => {
    const row = rows.find((r) => r.number === first);
    if (first && row && !begun.current) onChoose(row.name);
    begun.current ||= rows.length > 0;
  }, [rows, first, onChoose]);
  const at = rows.findIndex((r) => r.name === chosen);
  useEffect(() => {
    if (at >= 0) list.current?.querySelector(`#look-${at}`)?.scrollIntoView({ block: "nearest" });
  }, [at]);
  return (
    <section aria-label="What stands in it" className="flex w-[400px] shrink-0 flex-col border-l border-hair bg-paper">
      <div className="flex border-b border-hair px-3 py-1.5 text-[12px] text-ink-2">
        <span className="flex-1">Part</span>
        <span className="w-[60px] text-right">It holds</span>
        <span className="w-[80px] text-right">Sheets take</span>
      </div>
      <div
        ref={list}
        role="listbox"
        tabIndex={0}
        aria-label="Parts of the model"
        aria-activedescendant={at >= 0 ? `look-${at}` : undefined}
        className="min-h-0 flex-1 overflow-y-auto focus-visible:outline-offset-[-2px]"
        onKeyDown={(event) => {
          const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
          if (step !== undefined && rows.length > 0) {
            event.preventDefault();
            onChoose(rows[Math.max(0, Math.min(rows.length - 1, at + step))]!.name);
          } else if (event.key === "Escape") onChoose(null);
        }}
      >
        {rows.map((r, index) => {
          const differs = r.on_sheet !== null && r.on_sheet !== r.count;
          return (
            // biome-ignore lint/a11y/useKeyWithClickEvents: the list takes the keys for all its rows
            <div
              key={r.name}
              id={`look-${index}`}
              role="option"
              tabIndex={-1}
              aria-selected={r.name === chosen}
              className={`flex h-8 cursor-default items-center border-b border-hair px-3 ${r.name === chosen ? "bg-blue-tint" : ""}`}
              onClick={() => onChoose(r.name === chosen ? null : r.name)}
            >
              <span className="min-w-0 flex-1 truncate">
                {r.number ? <span className="pn">{r.number}</span> : <span className="text-ink-2">{r.name}</span>}
                {r.description && <span className="ml-2 text-ink-2">{r.description}</span>}
              </span>
              <span className="w-[60px] text-right">{r.count}</span>
              <span className={`w-[80px] text-right ${differs ? "font-semibold text-bad" : ""}`}>
                {r.on_sheet === null ? "–" : quantity(r.on_sheet, 3)}
              </span>
            </div>
          );
        })}
      </div>
      {model.data && rows.length === 0 && <p className="px-3 py-2 text-ink-2">It is one part.</p>}
      {at >= 0 && (
        <p className="border-t border-hair px-3 py-2" aria-live="polite">
          <b className="pn">{rows[at]!.number || rows[at]!.name}</b>
          {rows[at]!.size && <span className="text-ink-2">, {rows[at]!.size} mm</span>}{" "}
          {rows[at]!.number ? (
            <Link
              className="inline-block min-h-6 leading-6 text-blue hover:underline"
              to={`/part/${encodeURIComponent(rows[at]!.number)}`}
            >
              open the part
            </Link>
          ) : (
            <span className="text-ink-3">no part of ours has this name</span>
          )}
        </p>
      )}
    </section>
  );
}
