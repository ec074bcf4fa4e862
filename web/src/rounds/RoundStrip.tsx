import { moved } from "../kit/Bridge";
import { money, percent, quantity } from "../lib/number";
import type { Round } from "../pieces/useRounds";

/** What a round moves altogether. */
export function Moved({ round }: { round: Round }) {
  const t = round.tally!;
  const word = round.status === "accepted" ? "Stock was valued anew" : "Stock on hand";
  return (
    <div className="flex flex-wrap items-baseline gap-x-7 gap-y-1 pb-2">
      <Sum word={word} before={t.stock_before} after={t.stock_after} />
      <Sum word="Open orders" before={t.orders_before} after={t.orders_after} />
      <span className="text-ink-2">
        {quantity(t.moved)} of {quantity(t.parts)} parts move
        {t.first > 0 && `; ${quantity(t.first)} had no standard, old is what their inputs come to without it`}
      </span>
      {t.lacking.length > 0 && (
        <span className="text-brass" title={t.lacking.join(", ")}>
          left out, for want of a sheet in force there or below: {t.lacking.slice(0, 3).join(", ")}
          {t.lacking.length > 3 && ` and ${t.lacking.length - 3} more`}
        </span>
      )}
      {t.unpriced.length > 0 && (
        <span className="text-brass" title={t.unpriced.join(", ")}>
          without a price, counted at nothing: {t.unpriced.slice(0, 3).join(", ")}
          {t.unpriced.length > 3 && ` and ${t.unpriced.length - 3} more`}
        </span>
      )}
    </div>
  );
}

function Sum({ word, before, after }: { word: string; before: number; after: number }) {
  const change = after - before;
  return (
    <div className="flex items-baseline gap-1.5">
      <span className="text-ink-2">{word}</span>
      <span>
        {money(before)} → <b>{money(after)}</b>{" "}
        <b className={change > 0 ? "text-brass" : "text-blue"}>
          {moved(change)}
          {before > 0 && change !== 0 && ` (${percent(Math.abs(change) / before)})`}
        </b>
      </span>
    </div>
  );
}
