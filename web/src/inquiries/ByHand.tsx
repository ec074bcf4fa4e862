import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { Panel } from "../kit/Panel";
import { answer, client } from "../lib/api";
import type { InquiryLine } from "../model/inquiry";
import { LedgerTable } from "./Proposals";
import type { CouldBe, Evidence } from "./states";

/** The words that say most about a line: what was read as its kind's values, else the beginning of what was written. */
function firstWords(line: InquiryLine, beside: Evidence | undefined): string {
  const main = beside?.spans[0];
  const text = line.description;
  if (main && beside.kind) return text.slice(main.start, main.end).trim();
  return text.split(/[\s,;]+/)[0] ?? "";
}

/** A part of ours looked up by hand; each that is found is held against the line. */
export function ByHand({
  id,
  line,
  beside,
  onTake,
  onClose,
}: {
  id: number;
  line: InquiryLine;
  beside: Evidence | undefined;
  onTake: (could: CouldBe) => void;
  onClose: () => void;
}) {
  const [text, setText] = useState(() => firstWords(line, beside));
  const [at, setAt] = useState(0);
  const search = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: ["inquiry-evidence", id, "like", line.id, search],
    queryFn: () =>
      answer(
        client.GET("/api/inquiries/{inquiry_id}/lines/{line_id}/like", {
          params: { path: { inquiry_id: id, line_id: line.id }, query: { search } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const parts = found.data ?? [];
  const chosen = parts[Math.min(at, parts.length - 1)];
  // Enter takes nothing that was found for other words: it waits for what was typed.
  const fresh = !found.isPlaceholderData && !found.isFetching && search === text.trim();
  const [entered, setEntered] = useState(false);
  useEffect(() => {
    if (!entered || !fresh) return;
    setEntered(false);
    if (chosen) onTake(chosen);
  }, [entered, fresh, chosen, onTake]);
  const values = (beside?.spans ?? []).map((s) => line.description.slice(s.start, s.end).trim());
  return (
    <Panel title="By hand" note={line.description || line.part || line.maker_number} open onClose={onClose}>
      <input
        className="field mt-3"
        type="search"
        aria-label="Find a part of ours"
        autoFocus
        value={text}
        onFocus={(event) => event.target.select()}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
          setEntered(false);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown" || event.key === "ArrowUp") {
            event.preventDefault();
            setAt(Math.max(0, Math.min(parts.length - 1, at + (event.key === "ArrowDown" ? 1 : -1))));
          } else if (event.key === "Enter") {
            event.preventDefault();
            setEntered(true);
          }
        }}
      />
      {values.length > 0 && (
        <p className="mt-1.5 flex flex-wrap gap-1.5 text-[12px] text-ink-2">
          add a value:
          {values.map((value) => (
            <button
              key={value}
              type="button"
              className="border-b-2 border-blue-line hover:border-blue"
              onClick={() => setText((old) => (old.includes(value) ? old : `${old} ${value}`.trim()))}
            >
              {value}
            </button>
          ))}
        </p>
      )}
      <ul aria-label="Found" className="mt-2 flex flex-col">
        {parts.map((could, index) => (
          <li key={could.part} className={`border-t border-hair ${could === chosen ? "bg-blue-tint" : ""}`}>
            <button
              type="button"
              className="w-full px-1 py-1 text-left"
              onMouseEnter={() => setAt(index)}
              onClick={() => onTake(could)}
            >
              <span className="pn">{could.part}</span> <span className="text-ink-2">{could.description}</span>
            </button>
            {could === chosen && (
              <div className="px-1 pb-1.5">
                <LedgerTable could={could} />
              </div>
            )}
          </li>
        ))}
        {found.data?.length === 0 && <li className="text-ink-3">Nothing of ours goes by these words.</li>}
      </ul>
    </Panel>
  );
}
