import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { useSay } from "../kit/Says";
import { usePages } from "../kit/usePages";
import { answer, client } from "../lib/api";
import { day, quantity } from "../lib/number";
import { type Round, useRoundVerb } from "../pieces/useRounds";

const GRID = "grid grid-cols-[120px_1fr_140px_90px_90px_64px_1.1fr_150px_84px] items-center gap-x-3 px-2";

/** What a round proposes, beside what stands now. */
export function ProposalTable({ round, may, onPropose }: { round: Round; may: boolean; onPropose: () => void }) {
  const say = useSay();
  const { box, rows, total, at, first } = usePages({
    key: ["rounds", round.id, "proposals", round.version],
    ask: (offset, limit) =>
      answer(
        client.GET("/api/rounds/{round_id}/proposals", {
          params: { path: { round_id: round.id }, query: { offset, limit } },
        }),
      ),
    tall: 32,
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
  if (first && total === 0)
    return (
      <Empty
        title="Nothing is proposed yet"
        action={
          may && (
            <Button needs="rounds" look="strong" onClick={onPropose}>
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
                      <Button
                        needs="rounds"
                        look="quiet"
                        className="!min-h-[24px]"
                        aria-label={`Take back ${p.word} of ${p.name}`}
                        onClick={() =>
                          back.mutate(p.id, {
                            onSuccess: () => say(`Took back ${p.word} of ${p.name}.`),
                            onError: (error) => say(error.message, { bad: true }),
                          })
                        }
                      >
                        take back
                      </Button>
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
