import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../kit/Button";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { day, money, quantity, today, typed } from "../../lib/number";
import { useUntrue } from "../../lib/untrue";
import { OfferPanel } from "./OfferPanel";
import { useOffers } from "./useOffers";

type Offer = Schemas["OfferOut"];

/** What an offer asks besides its prices. */
function words(o: Offer): string {
  return [
    Number(o.minimum) > 0 && `at least ${quantity(o.minimum)}`,
    o.multiple && `in ${quantity(o.multiple)}s`,
    o.available !== null && `${quantity(o.available)} there`,
    o.lead_days > 0 && `${o.lead_days} d`,
    o.valid_to && (o.valid_to < today() ? `ran out ${day(o.valid_to)}` : `holds to ${day(o.valid_to)}`),
  ]
    .filter(Boolean)
    .join(", ");
}

/** What suppliers ask for a part; those that do not hold any more stay behind the others. */
export function Offers({ part }: { part: string }) {
  const [adding, setAdding] = useState(false);
  const [ordering, setOrdering] = useState<number | null>(null);
  const list = useOffers(part);
  const say = useSay();
  const untrue = useUntrue();
  const letGo = useMutation<Schemas["OfferKept"], Refusal, number>({
    mutationFn: (offer) =>
      answer(client.POST("/api/buying/offers/{offer_id}/let-go", { params: { path: { offer_id: offer } } })),
    onSuccess: () => untrue("offer"),
    onError: (error) => say(error.message, { bad: true }),
  });
  return (
    <>
      <ul className="bg-paper">
        {(list.data?.offers ?? []).map((o) => (
          <li
            key={o.id}
            className={`border-b border-hair px-2 py-1 ${o.let_go_by || (o.valid_to && o.valid_to < today()) ? "text-ink-3" : ""}`}
          >
            <span className="flex items-baseline gap-2">
              <span className={`min-w-0 flex-1 truncate ${o.let_go_by ? "line-through" : "font-semibold"}`}>
                {o.supplier}
                {o.their_number && <span className="pn font-normal text-ink-3"> {o.their_number}</span>}
              </span>
              {o.let_go_by ? (
                <span className="text-[12px]">let go by {o.let_go_by}</span>
              ) : (
                <>
                  <Button needs="buying" look="quiet" className="!min-h-0" onClick={() => setOrdering(o.id)}>
                    order
                  </Button>
                  <Button needs="buying" look="quiet" className="!min-h-0" onClick={() => letGo.mutate(o.id)}>
                    let go
                  </Button>
                </>
              )}
            </span>
            {ordering === o.id && <OrderOne part={part} offer={o} onDone={() => setOrdering(null)} />}
            <span className="block">
              {o.breaks.map(([start, price]) => `${money(Number(price))} from ${quantity(start)}`).join(", ")}{" "}
              {o.currency} <span className="text-[12px] text-ink-3">per {o.unit}</span>
            </span>
            <span className="block text-[12px] text-ink-3">
              {words(o)}
              {words(o) && " · "}
              {o.source === "by hand" ? "typed" : `${o.source} ${o.source_words}`} by {o.taken_by}, {day(o.offered_at)}
              {o.confirmed_at && `, said again ${day(o.confirmed_at)}`}
            </span>
          </li>
        ))}
      </ul>
      {list.data?.offers.length === 0 && <p className="py-1 text-ink-3">Nobody offers it yet.</p>}
      <Button needs="buying" className="mt-1.5" onClick={() => setAdding(true)}>
        New offer
      </Button>
      {adding && <OfferPanel part={part} onKept={() => setAdding(false)} onClose={() => setAdding(false)} />}
    </>
  );
}

/** So many of one offer, as an order of its own; it is looked at before it is placed. */
function OrderOne({ part, offer, onDone }: { part: string; offer: Offer; onDone: () => void }) {
  const [text, setText] = useState("");
  const untrue = useUntrue();
  const navigate = useNavigate();
  const make = useMutation<Schemas["OrdersMade"], Refusal, void>({
    mutationFn: () =>
      answer(client.POST("/api/orders/of-part", { body: { part, offer: offer.id, quantity: typed(text) } })),
    onSuccess: (made) => {
      untrue("order");
      onDone();
      navigate(`/orders/${made.orders[0]}`);
    },
  });
  return (
    <form
      className="flex items-center gap-2 py-1"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <input
        className="field !min-h-[26px] !w-[90px] text-right"
        aria-label={`How many ${offer.unit} from ${offer.supplier}`}
        inputMode="decimal"
        autoFocus
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && onDone()}
      />
      {offer.unit}
      <Button needs="buying" className="!min-h-[26px]" type="submit" disabled={!text.trim() || make.isPending}>
        Make the order
      </Button>
      {make.error && (
        <span role="alert" className="text-[12px] text-bad">
          {make.error.problems[0]?.message ?? make.error.message}
        </span>
      )}
    </form>
  );
}
