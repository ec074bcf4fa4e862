import { useRef, useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { answer, client } from "../lib/api";
import { quantity, typed } from "../lib/number";
import { useMay } from "../lib/session";
import { PartChoice } from "../pieces/PartChoice";
import { type Component, type Order, useAct } from "./states";

const GRID =
  "grid grid-cols-[40px_110px_minmax(150px,1.4fr)_84px_110px_110px_110px_minmax(160px,1fr)_110px] items-center gap-x-3 px-2";

/** What an order takes: needed, issued, there, short and what ends it; the store issues in the last column, less than nothing comes back. */
export function Components({ order }: { order: Order }) {
  const [given, setGiven] = useState<Record<number, string>>({});
  const [instead, setInstead] = useState<Record<number, string>>({});
  const [codes, setCodes] = useState<Record<number, string>>({});
  const [swapping, setSwapping] = useState<number | null>(null);
  const [reason, setReason] = useState("");
  const key = useRef(crypto.randomUUID());
  const may = useMay("shop reports");
  const takes = may && order.why_not.report === null;
  const rows = Object.entries(given).filter(([, text]) => text.trim());
  const issue = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/issue", {
          params: { path: { order_id: order.id } },
          body: {
            key: key.current,
            issues: rows.map(([row, text]) => ({
              component: Number(row),
              quantity: typed(text),
              instead: instead[Number(row)] ?? "",
              stands_for: "",
              codes: codesOf(codes[Number(row)] ?? "", typed(text)),
            })),
            reason,
            done_by: "",
          },
        }),
      ),
    () => {
      key.current = crypto.randomUUID();
      setGiven({});
      setInstead({});
      setCodes({});
      setSwapping(null);
      setReason("");
    },
  );
  const needsReason = rows.some(([row]) => instead[Number(row)]);
  return (
    <section aria-label="Components" className="pt-4">
      <h2 className="pb-1 font-semibold">What it takes</h2>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          issue.mutate();
        }}
      >
        <div role="table" aria-label="Components of the order" className="border-t border-ink bg-paper">
          <div role="row" className={`${GRID} h-7 border-b border-hair-2 text-[12px] text-ink-2`}>
            {[
              "item",
              "part",
              "what it is",
              "at",
              "needed",
              "issued",
              "on hand − others’",
              "short",
              takes ? "issue" : "",
            ].map((title, at) => (
              <span
                // biome-ignore lint/suspicious/noArrayIndexKey: headings have their places
                key={at}
                role="columnheader"
                className={at === 0 || (at > 2 && at < 7) ? "text-right" : ""}
              >
                {title}
              </span>
            ))}
          </div>
          {order.components.map((c) => (
            <div key={c.row} role="row" className={`${GRID} min-h-8 border-b border-hair py-0.5`}>
              <span role="cell" className="text-right text-[12px] text-ink-3">
                {c.item ?? ""}
              </span>
              <span role="cell">
                <Link className="pn text-blue hover:underline" to={`/part/${encodeURIComponent(c.part)}`}>
                  {c.part}
                </Link>
              </span>
              <span role="cell" className="truncate text-ink-2" title={c.description}>
                {c.byproduct && "comes back: "}
                {c.customer_supplied && "from the customer: "}
                {c.description}
              </span>
              <span role="cell" className="flex items-center justify-end gap-1.5 text-ink-3">
                {c.sequence || ""}
                {!c.byproduct && <Flush order={order} c={c} />}
              </span>
              <span role="cell" className="text-right">
                {quantity(c.required)} <span className="text-[12px] text-ink-3">{c.unit}</span>
              </span>
              <Issued c={c} />
              <span
                role="cell"
                className="text-right"
                title={Number(c.spoken_for) ? `${quantity(c.spoken_for)} of it for other orders` : undefined}
              >
                {quantity(c.on_hand)}
                {Number(c.spoken_for) > 0 && <span className="text-ink-3"> − {quantity(c.spoken_for)}</span>}
              </span>
              <span role="cell" className="truncate">
                {Number(c.short) > 0 && (
                  <>
                    <b className="text-bad">
                      {quantity(c.short)} {c.unit}
                    </b>{" "}
                    <span className="text-ink-2">{c.coming || "nothing ordered"}</span>
                  </>
                )}
              </span>
              <span role="cell" className="flex items-center gap-1">
                {takes && !c.byproduct && (
                  <>
                    <input
                      className="field !min-h-[26px] text-right"
                      aria-label={`Issue of ${c.part}`}
                      inputMode="decimal"
                      value={given[c.row] ?? ""}
                      onChange={(event) => setGiven({ ...given, [c.row]: event.target.value })}
                    />
                    <Button
                      look="quiet"
                      className="!min-h-[26px]"
                      aria-label={`other part instead of ${c.part}`}
                      title="another part instead"
                      onClick={() => setSwapping(swapping === c.row ? null : c.row)}
                    >
                      other
                    </Button>
                  </>
                )}
              </span>
              {swapping === c.row && (
                <span className="col-span-9 flex items-center gap-2 py-1 pl-[52px]">
                  instead of <span className="pn">{c.part}</span> take
                  <PartChoice
                    label="Part"
                    value={instead[c.row] ?? ""}
                    onKeep={(number) => setInstead({ ...instead, [c.row]: number })}
                  />
                  <span className="text-ink-2">as much of it stands for as much of this; say why below</span>
                  {c.traced && (
                    <label className="ml-auto flex items-center gap-1.5">
                      {c.traced === "lot" ? "lots" : "serial numbers"}
                      <input
                        className="field !min-h-[26px] !w-[220px]"
                        placeholder={c.traced === "lot" ? "A7 2.5, A8 1" : "the oldest"}
                        value={codes[c.row] ?? ""}
                        onChange={(event) => setCodes({ ...codes, [c.row]: event.target.value })}
                      />
                    </label>
                  )}
                </span>
              )}
            </div>
          ))}
        </div>
        {rows.length > 0 && (
          <div className="flex items-center gap-2 pt-2">
            <input
              className="field !w-[300px]"
              aria-label="Why"
              placeholder={needsReason ? "why another part" : "why, where there is a reason"}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
            <Button needs="shop reports" look="strong" type="submit" disabled={issue.isPending}>
              Issue {rows.length === 1 ? "it" : `${rows.length} parts`}
            </Button>
            <Button onClick={() => setGiven({})}>Leave it</Button>
          </div>
        )}
        {issue.error && (
          <p role="alert" className="pt-1 text-bad">
            {issue.error.problems[0]?.message ?? issue.error.message}
          </p>
        )}
      </form>
    </section>
  );
}

/** Lots as they are typed: a code and how much of it; alone it is all of it, or one unit where there are several. */
function codesOf(text: string, all: string): { code: string; quantity: string }[] {
  const rows = text
    .split(/[,;]+/)
    .map((row) => row.trim().split(/\s+/))
    .filter(([code]) => code);
  return rows.map(([code = "", much]) => ({ code, quantity: much ? typed(much) : rows.length === 1 ? all : "1" }));
}

/** Whether it is taken with what is reported, or issued by the store. */
function Flush({ order, c }: { order: Order; c: Component }) {
  const may = useMay("work orders") && order.why_not.flush === null;
  const keep = useAct<boolean>((backflush) =>
    answer(
      client.PUT("/api/shop/orders/{order_id}/backflush", {
        params: { path: { order_id: order.id } },
        body: [{ row: c.row, backflush }],
      }),
    ),
  );
  const words = c.backflush ? "taken with what is reported" : "issued by the store";
  return (
    <button
      type="button"
      className={`min-h-6 rounded-[3px] border px-1 text-[12px] ${c.backflush ? "border-hair-2 text-ink-2" : "border-brass text-brass"}`}
      aria-disabled={!may}
      aria-label={`${c.backflush ? "auto" : "store"}: ${c.part} is ${words}`}
      title={words}
      onClick={() => may && keep.mutate(!c.backflush)}
    >
      {c.backflush ? "auto" : "store"}
    </button>
  );
}

function Issued({ c }: { c: Component }) {
  return (
    <span role="cell" className="text-right">
      {quantity(c.issued)}
      {Number(c.stood_in) > 0 && (
        <span className="text-brass" title="another part stands for it">
          {" "}
          + {quantity(c.stood_in)}
        </span>
      )}
    </span>
  );
}
