import { Button } from "../kit/Button";
import { day, money, quantity } from "../lib/number";
import { arrivalWords, type LookedAt, whySoMany } from "../model/plan";
import type { NeedWhole } from "./usePlan";

/** Those that may be used, the cheapest for the whole need first, then those that are ruled out. */
export const inOrder = (offers: LookedAt[]): LookedAt[] =>
  offers.toSorted(
    (a, b) =>
      Number(a.ruled_out !== "") - Number(b.ruled_out !== "") ||
      Number(a.alone_cost ?? Number.POSITIVE_INFINITY) - Number(b.alone_cost ?? Number.POSITIVE_INFINITY),
  );

/** Where an offer came from, and until when it holds. */
const origin = (o: LookedAt) =>
  [
    o.source === "by hand" ? `typed ${day(o.offered_at)}` : `${o.source} ${o.source_words} ${day(o.offered_at)}`,
    o.valid_to && `holds to ${day(o.valid_to)}`,
  ]
    .filter(Boolean)
    .join(", ");

/** The offers of a need: what the whole need would cost of each alone, when it comes, what rules it out. */
export function OfferLedger({
  need,
  held,
  at,
  onAt,
  onTake,
  onLetGo,
}: {
  need: NeedWhole;
  /** Offer → quantity chosen by hand, of those not planned yet too. */
  held: Record<string, string>;
  at: number | null;
  onAt: (offer: number | null) => void;
  onTake: (offer: LookedAt) => void;
  onLetGo: (offer: LookedAt) => void;
}) {
  const needed = Number(need.quantity);
  return (
    <ul className="mt-1">
      {inOrder(need.looked_at).map((o, index) => {
        const bought = need.bought.find((b) => b.offer === o.offer);
        const byHand = held[o.offer] !== undefined;
        const out = o.ruled_out !== "";
        return (
          <li
            key={o.offer}
            className={`border-t border-hair py-1.5 ${o.offer === at ? "bg-sunk" : ""}`}
            onPointerEnter={() => onAt(o.offer)}
            onPointerLeave={() => onAt(null)}
          >
            <div className="flex items-baseline gap-2">
              <kbd className="w-4 shrink-0 text-center font-mono text-[12px] text-ink-3">
                {index < 9 ? index + 1 : ""}
              </kbd>
              <span
                className={`min-w-0 flex-1 truncate ${bought ? "font-semibold text-blue" : out ? "text-ink-3" : ""}`}
              >
                {o.supplier}
                {o.part && <span className="pn font-normal text-ink-2"> {o.part}</span>}
                {o.maker_number && <span className="pn font-normal text-ink-3"> {o.maker_number}</span>}
                {o.choice && o.choice > 1 && (
                  <span className="text-[12px] font-normal text-ink-3"> choice {o.choice}</span>
                )}
              </span>
              {!out && o.alone_cost !== null && (
                <span className="whitespace-nowrap">
                  <span className="text-[12px] text-ink-3">{quantity(o.alone)} cost </span>
                  <b className="font-semibold">{money(Number(o.alone_cost))}</b>
                </span>
              )}
              {out && <span className="text-bad">{o.ruled_out}</span>}
            </div>
            <div className="ml-6 flex items-baseline gap-2 text-[12px] text-ink-3">
              <span className="min-w-0 flex-1">
                {o.breaks.map(([start, price]) => `${money(Number(price))} from ${quantity(start)}`).join(", ")}{" "}
                {o.currency}
                {o.available !== null && `, ${quantity(o.available)} there`}
                {o.arrives && `, ${arrivalWords(o, need.by)}`}
                <br />
                {origin(o)}
              </span>
              {byHand ? (
                <Button needs="buying" look="quiet" className="!min-h-0" onClick={() => onLetGo(o)}>
                  let go
                </Button>
              ) : (
                o.alone !== null &&
                needed > 0 &&
                !(bought && need.bought.length === 1) && (
                  <Button needs="buying" look="quiet" className="!min-h-0" onClick={() => onTake(o)}>
                    take it
                  </Button>
                )
              )}
            </div>
            {bought && (
              <p className="ml-6 text-[12px] text-blue">
                {byHand ? "by hand: " : "bought: "}
                {quantity(bought.quantity)} at {money(Number(bought.price))} = {money(Number(bought.cost))}
                {Number(bought.surplus) > 0 && `, ${quantity(bought.surplus)} more than needed`}
                {need.bought.length === 1 &&
                  whySoMany(o, needed, Number(bought.quantity)) &&
                  ` (${whySoMany(o, needed, Number(bought.quantity))})`}
              </p>
            )}
          </li>
        );
      })}
    </ul>
  );
}
