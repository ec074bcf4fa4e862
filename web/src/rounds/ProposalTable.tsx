import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { useSay } from "../kit/Says";
import { answer, client, type Schemas } from "../lib/api";
import { day, quantity } from "../lib/number";
import { type Round, useRoundVerb } from "./useRounds";

const PAGE = 200;
const GRID = "grid grid-cols-[120px_1fr_140px_90px_90px_64px_1.1fr_150px_84px] items-center gap-x-3 px-2";

/** What a round proposes, beside what stands now. */
export function ProposalTable({ round, may, onPropose }: { round: Round; may: boolean; onPropose: () => void }) {
  const [range, setRange] = useState<[number, number]>([0, 30]);
  const say = useSay();
  const box = useRef<HTMLDivElement>(null);
  const pages = [...new Set([0, Math.floor(range[0] / PAGE), Math.floor(range[1] / PAGE)])];
  const loaded = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["rounds", round.id, "proposals", round.version, page],
      queryFn: () =>
        answer(
          client.GET("/api/rounds/{round_id}/proposals", {
            params: { path: { round_id: round.id }, query: { offset: page * PAGE, limit: PAGE } },
          }),
        ),
      placeholderData: keepPreviousData,
    })),
  });
  const held = new Map(pages.map((page, i) => [page, loaded[i]?.data]));
  const total = held.get(0)?.total ?? 0;
  const at = (index: number): Schemas["ProposalOut"] | undefined =>
    held.get(Math.floor(index / PAGE))?.items[index % PAGE];
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => box.current,
    estimateSize: () => 32,
    overscan: 10,
    onChange: (v) => {
      const shown = v.getVirtualItems();
      const next: [number, number] = [shown[0]?.index ?? 0, shown.at(-1)?.index ?? 0];
      setRange((old) => (old[0] === next[0] && old[1] === next[1] ? old : next));
    },
  });
  const back = useRoundVerb<number>(round.id, async (id) => {
    const done = await answer(
      client.POST("/api/rounds/{round_id}/proposals/withdraw", {
        params: { path: { round_id: round.id } },
        body: { ids: [id] },
      }),
    );
    return done.round;
  });
  if (held.get(0) && total === 0)
    return (
      <Empty
        title="Nothing is proposed yet"
        action={
          may && (
            <Button look="strong" onClick={onPropose}>
              Propose …
            </Button>
          )
        }
      >
        Prices, rates, scrap, times and lots as they would be: one by one, by a list, or by a percentage over a
        selection. What stands now stays as it is.
      </Empty>
    );
  return (
    <div
      ref={box}
      role="table"
      aria-label="Proposed inputs"
      aria-rowcount={total + 1}
      tabIndex={0}
      className="min-h-0 flex-1 overflow-y-auto bg-paper"
    >
      <div
        role="row"
        aria-rowindex={1}
        className={`${GRID} sticky top-0 z-10 h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2`}
      >
        <span role="columnheader">Of</span>
        <span role="columnheader">Description</span>
        <span role="columnheader">Input</span>
        <span role="columnheader" className="text-right">
          Now
        </span>
        <span role="columnheader" className="text-right">
          Proposed
        </span>
        <span role="columnheader" className="text-right">
          %
        </span>
        <span role="columnheader">From</span>
        <span role="columnheader">By</span>
        <span role="columnheader">
          <span className="sr-only">Take back</span>
        </span>
      </div>
      <div role="rowgroup" className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((item) => {
          const p = at(item.index);
          const share = p?.now && p.value && Number(p.now) ? Number(p.value) / Number(p.now) - 1 : null;
          return (
            <div
              key={item.key}
              role="row"
              aria-rowindex={item.index + 2}
              className={`${GRID} absolute inset-x-0 h-8 border-b border-hair`}
              style={{ transform: `translateY(${item.start}px)` }}
            >
              {p && (
                <>
                  <span role="cell" className="pn truncate">
                    {p.name}
                  </span>
                  <span role="cell" className="truncate">
                    {p.more}
                  </span>
                  <span role="cell" className="truncate">
                    {p.word}
                  </span>
                  <span role="cell" className="text-right text-ink-2">
                    {quantity(p.now, 6)}
                  </span>
                  <span role="cell" className="text-right font-semibold">
                    {quantity(p.value, 6)}
                  </span>
                  <span role="cell" className="text-right text-ink-2">
                    {share === null
                      ? ""
                      : `${share > 0 ? "+" : "−"}${(Math.abs(share) * 100).toLocaleString("en", { maximumFractionDigits: 1 })}`}
                  </span>
                  <span role="cell" className="truncate" title={p.reason}>
                    {p.source}
                    {p.reason && p.reason !== p.source && <span className="text-ink-3">: {p.reason}</span>}
                  </span>
                  <span role="cell" className="truncate text-ink-2">
                    {p.by}, {day(p.at)}
                  </span>
                  <span role="cell">
                    {may && (
                      <button
                        type="button"
                        className="min-h-[24px] text-blue hover:underline"
                        aria-label={`Take back ${p.word} of ${p.name}`}
                        onClick={() =>
                          back.mutate(p.id, {
                            onSuccess: () => say(`Took back ${p.word} of ${p.name}.`),
                            onError: (error) => say(error.message, { bad: true }),
                          })
                        }
                      >
                        take back
                      </button>
                    )}
                  </span>
                </>
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
}
