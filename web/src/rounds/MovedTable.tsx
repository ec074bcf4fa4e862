import { type KeyboardEvent, useDeferredValue, useState } from "react";
import { moved, SmallBridge } from "../kit/Bridge";
import { Button } from "../kit/Button";
import { usePages } from "../kit/usePages";
import { answer, client } from "../lib/api";
import { CAUSES } from "../lib/declared";
import { ELEMENT_WORDS, ELEMENTS } from "../lib/elements";
import { money, percent } from "../lib/number";
import { useClasses } from "../pieces/parts/useParts";
import { type Round, still } from "../pieces/useRounds";

const CHANGE = "grid grid-cols-[96px_1fr_64px_64px_74px_48px_74px_76px_76px] items-center gap-x-2 px-2";
const BY_ELEMENT = "grid grid-cols-[112px_repeat(9,minmax(0,1fr))_76px] items-center gap-x-2 px-2";
type Sort = "unit" | "stock" | "orders" | "percent" | "number" | "new";

/** Old and new of every part of a round, those that move most first; by cause, or by element. */
export function MovedTable({
  round,
  part,
  onPart,
}: {
  round: Round;
  part: number | null;
  onPart: (part: number) => void;
}) {
  const [sort, setSort] = useState<Sort>("stock");
  const [text, setText] = useState("");
  const [partClass, setPartClass] = useState("");
  const [moving, setMoving] = useState(true);
  const [elements, setElements] = useState(false);
  const search = useDeferredValue(text.trim());
  const classes = useClasses();
  const query = { sort, search, part_class: partClass, moved: moving };
  const { box, rows, total, at, first } = usePages({
    key: ["rounds", round.id, "rows", round.tally?.at, query],
    ask: (offset, limit) =>
      answer(
        client.GET("/api/rounds/{round_id}/rows", {
          params: { path: { round_id: round.id }, query: { ...query, offset, limit } },
        }),
      ),
    tall: 32,
  });
  const index = rows.getVirtualItems().find((v) => at(v.index)?.id === part)?.index;
  const key = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    const next = at(Math.max(0, Math.min(total - 1, (index ?? -1) + step)));
    if (!next) return;
    onPart(next.id);
    rows.scrollToIndex((index ?? -1) + step);
  };
  const grid = elements ? BY_ELEMENT : CHANGE;
  const head = (value: Sort, words: string, number = true) => (
    <span role="columnheader" aria-sort={sort === value ? "descending" : "none"} className={number ? "text-right" : ""}>
      <button type="button" className="hover:text-blue" onClick={() => setSort(value)}>
        {words}
        {sort === value ? (value === "number" ? " ↑" : " ↓") : ""}
      </button>
    </span>
  );
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <div className="flex items-center gap-2 py-1.5">
        <input
          type="search"
          className="field !min-h-[26px] max-w-[190px]"
          aria-label="Find a part of the round"
          placeholder="Part number or words"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <select
          className="field !min-h-[26px] !w-auto max-w-[160px] !py-0"
          aria-label="Class"
          value={partClass}
          onChange={(e) => setPartClass(e.target.value)}
        >
          <option value="">every class</option>
          {classes.map((c) => (
            <option key={c.name} value={c.name}>
              {c.name}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={moving} onChange={(e) => setMoving(e.target.checked)} /> only what moves
        </label>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={elements} onChange={(e) => setElements(e.target.checked)} /> by element
        </label>
      </div>
      <div
        ref={box}
        role="table"
        aria-label="Old and new by part"
        aria-rowcount={total + 1}
        tabIndex={0}
        onKeyDown={key}
        className="min-h-0 flex-1 overflow-y-auto border-t border-hair bg-paper"
      >
        <div
          role="row"
          aria-rowindex={1}
          className={`${grid} sticky top-0 z-10 h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2`}
        >
          {head("number", "Part", false)}
          {elements ? (
            ELEMENTS.map((name) => (
              <span key={name} role="columnheader" className="truncate text-right" title={ELEMENT_WORDS[name]}>
                {ELEMENT_WORDS[name]}
              </span>
            ))
          ) : (
            <>
              <span role="columnheader">Description</span>
              <span role="columnheader" className="text-right">
                Old
              </span>
              {head("new", "New")}
            </>
          )}
          {head("unit", "Moves by")}
          {!elements && (
            <>
              {head("percent", "%")}
              <span role="columnheader" title={CAUSES.join(", ")}>
                Causes
              </span>
              {head("stock", "On stock")}
              {head("orders", "On orders")}
            </>
          )}
        </div>
        <div role="rowgroup" className="relative" style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map((item) => {
            const row = at(item.index);
            const change = row ? row.after - row.before : 0;
            return (
              // biome-ignore lint/a11y/useKeyWithClickEvents: the list itself takes the keys
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={row?.id === part}
                onClick={() => row && onPart(row.id)}
                className={`${grid} absolute inset-x-0 h-8 cursor-pointer border-b border-hair ${row && row.id === part ? "bg-blue-tint" : "hover:bg-sunk"}`}
                style={{ transform: `translateY(${item.start}px)` }}
              >
                {row && (
                  <>
                    <span role="cell" className="truncate">
                      <button type="button" className="pn text-blue hover:underline" onClick={() => onPart(row.id)}>
                        {row.number}
                      </button>
                    </span>
                    {elements ? (
                      ELEMENTS.map((name) => {
                        const [one, other] = [row.before_elements[name], row.elements[name]];
                        return (
                          <span
                            key={name}
                            role="cell"
                            className={`truncate text-right ${still(one, other) ? "text-ink-3" : "font-semibold"}`}
                            title={`${ELEMENT_WORDS[name]}: ${money(one)} → ${money(other)}`}
                          >
                            {still(one, other) ? (other ? money(other) : "–") : moved(other - one)}
                          </span>
                        );
                      })
                    ) : (
                      <>
                        <span
                          role="cell"
                          className="truncate"
                          title={[row.description, row.given].filter(Boolean).join("; ")}
                        >
                          {row.given && <small className="mr-1 text-[11px] text-brass">by hand</small>}
                          {row.description}
                        </span>
                        <span
                          role="cell"
                          className={`text-right ${row.has_standard ? "" : "text-ink-3"}`}
                          title={row.has_standard ? undefined : "no standard so far: what its inputs come to"}
                        >
                          {money(row.before)}
                        </span>
                        <span role="cell" className="text-right font-semibold">
                          {money(row.after)}
                        </span>
                      </>
                    )}
                    <span
                      role="cell"
                      className={`text-right font-semibold ${change > 0 ? "text-brass" : change < 0 ? "text-blue" : "text-ink-3"}`}
                    >
                      {change === 0 ? "–" : moved(change)}
                    </span>
                    {!elements && (
                      <>
                        <span role="cell" className="text-right text-ink-2">
                          {row.before && change ? percent(Math.abs(change) / row.before) : ""}
                        </span>
                        <span
                          role="cell"
                          title={Object.entries(row.causes)
                            .filter(([, c]) => c)
                            .map(([word, c]) => `${word} ${moved(c)}`)
                            .join(", ")}
                        >
                          <SmallBridge values={Object.values(row.causes)} />
                        </span>
                        <span role="cell" className="text-right">
                          {row.stock_moved ? moved(row.stock_moved) : "–"}
                        </span>
                        <span role="cell" className="text-right">
                          {row.orders_moved ? moved(row.orders_moved) : "–"}
                        </span>
                      </>
                    )}
                  </>
                )}
              </div>
            );
          })}
        </div>
        {first && total === 0 && (
          <p className="p-3 text-ink-2">
            {moving
              ? "No part of these moves. A first round has no standard to compare with; "
              : "Nothing goes by these words."}
            {moving && (
              <Button look="quiet" className="!min-h-0 !px-0" onClick={() => setMoving(false)}>
                show every part
              </Button>
            )}
          </p>
        )}
      </div>
    </div>
  );
}
