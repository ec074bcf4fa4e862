import { useRef, useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { answer, client, type Schemas } from "../lib/api";
import { dayAndTime, minutes, money, quantity } from "../lib/number";
import { type Order, useAct } from "./states";

type Entry = Schemas["EntryOut"];
type Posting = Schemas["PostingOut"];

const KINDS: Record<string, string> = {
  report: "work",
  issue: "store",
  sent: "sent outside",
  invoice: "invoice",
  closing: "closed",
  reversal: "reversal",
};

/** What was done on an order, the newest first; nothing is ever changed, but what was wrong is reversed with a reason. */
export function Ledger({ order }: { order: Order }) {
  return (
    <section aria-label="Ledger" className="pt-5">
      <h2 className="pb-1 font-semibold">What was done</h2>
      <ol className="border-t border-ink">
        {order.entries.map((entry) => (
          <Row key={entry.id} order={order} entry={entry} />
        ))}
      </ol>
    </section>
  );
}

function Row({ order, entry }: { order: Order; entry: Entry }) {
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  const key = useRef(crypto.randomUUID());
  const reverse = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/entries/{entry_id}/reverse", {
          params: { path: { order_id: order.id, entry_id: entry.id } },
          body: { key: key.current, reason },
        }),
      ),
    () => setAsking(false),
  );
  const open = order.why_not.report === null;
  const may = open && !entry.reversed && entry.kind !== "reversal" && entry.kind !== "closing";
  return (
    <li className={`border-b border-hair py-1 ${entry.reversed ? "text-ink-3 line-through" : ""}`}>
      <div className="flex items-baseline gap-3 px-2">
        <span className="w-[130px] text-ink-2">{dayAndTime(entry.at)}</span>
        <span className="w-[110px] truncate text-ink-2">{entry.done_by}</span>
        <span className="w-[90px] font-semibold">{KINDS[entry.kind] ?? entry.kind}</span>
        <span className="min-w-0 flex-1">
          {entry.lines.map(told).filter(Boolean).join("; ")}
          {entry.lines
            .filter((p) => p.codes.length > 0)
            .map((p, at) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: postings have their places
              <span key={at} className="pl-2">
                {p.codes.slice(0, 6).map((code) => (
                  <Link
                    key={code}
                    className="pn mr-2 whitespace-nowrap text-blue underline"
                    to={`/shop/traced?part=${encodeURIComponent(p.part)}&code=${encodeURIComponent(code)}`}
                  >
                    {code}
                  </Link>
                ))}
                {p.codes.length > 6 && `and ${p.codes.length - 6} more`}
              </span>
            ))}
          {entry.reason && <span className="text-ink-2"> ({entry.reason})</span>}
        </span>
        <span className="w-[90px] text-right">{Number(entry.value) ? money(Number(entry.value)) : ""}</span>
        <span className="w-[84px] text-right">
          {may && (
            <Button needs="shop reports" look="quiet" className="!min-h-[24px]" onClick={() => setAsking(!asking)}>
              Reverse
            </Button>
          )}
        </span>
      </div>
      {asking && (
        <form
          className="flex items-center gap-2 px-2 py-1 pl-[140px]"
          onSubmit={(event) => {
            event.preventDefault();
            reverse.mutate();
          }}
        >
          <input
            className="field !w-[320px]"
            aria-label="Why it is reversed"
            placeholder="why it is reversed"
            autoFocus
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button needs="shop reports" look="strong" type="submit" disabled={reverse.isPending}>
            Reverse it
          </Button>
          {reverse.error && (
            <span role="alert" className="text-bad">
              {reverse.error.problems[0]?.message ?? reverse.error.message}
            </span>
          )}
        </form>
      )}
    </li>
  );
}

function told(p: Posting): string {
  const units = [
    Number(p.good) ? `${quantity(p.good)} good` : "",
    Number(p.scrapped) ? `${quantity(p.scrapped)} scrapped` : "",
    Number(p.minutes) ? minutes(p.minutes) : "",
  ].filter(Boolean);
  if (p.kind === "work") return `${p.sequence || "made"}: ${units.join(", ")}`;
  if (p.kind === "sent") return `${p.sequence}: ${quantity(p.quantity)} sent`;
  if (p.kind === "invoice") return `${p.sequence}: invoiced`;
  if (p.kind === "rest") return `${money(-Number(p.value))} left with units that are gone`;
  if (p.kind === "receipt")
    return Number(p.quantity)
      ? `${quantity(p.quantity)} ${p.unit} of ${p.part} received`
      : `stock of ${p.part} worth ${money(-Number(p.value))} more`;
  const stands = Number(p.stood_in) ? ` in its place` : p.row === null ? " beyond the list" : "";
  return `${quantity(p.quantity)} ${p.unit} ${p.part}${stands}`;
}
