import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Keyed } from "../kit/Keyed";
import { typed } from "../lib/number";
import type { LookedAt, Need } from "../model/plan";
import { InItsPlace } from "./InItsPlace";
import { Ladder } from "./Ladder";
import { NeedSum } from "./NeedSum";
import { OfferLedger } from "./OfferLedger";
import { type NeedWhole, useNeed } from "./usePlan";

/** Beside the need at the cursor: how it came to it, its price ladder, and every offer for it. */
export function NeedAside({
  need,
  held,
  onTake,
  onLetGo,
  onNewOffer,
  onAllow,
  onDisallow,
}: {
  need: Need;
  held: Record<string, string>;
  onTake: (offer: LookedAt, quantity?: string) => void;
  onLetGo: (offer: LookedAt) => void;
  onNewOffer: () => void;
  onAllow: (part: string) => void;
  onDisallow: (part: string) => void;
}) {
  const [at, setAt] = useState<number | null>(null);
  const whole = useNeed(need.id);
  return (
    <aside
      aria-label="The need and its offers"
      aria-busy={!whole.data}
      className="flex w-[390px] shrink-0 flex-col gap-3 overflow-y-auto border-l border-hair-2 bg-paper px-4 py-3"
    >
      <h2 className="flex items-baseline gap-2">
        <Link className="pn shrink-0 text-blue hover:underline" to={`/part/${encodeURIComponent(need.part)}`}>
          {need.part}
        </Link>
        <span className="truncate font-semibold">{need.description}</span>
      </h2>
      {whole.error && (
        <p role="alert" className="text-bad">
          {whole.error.message}
        </p>
      )}
      {whole.data && (
        <>
          <section aria-label="What is needed">
            <h3 className="text-[12px] text-ink-2">What is needed</h3>
            <NeedSum need={whole.data} />
          </section>
          {need.reason && (
            <p>
              <b className="text-bad">{need.reason}.</b> {need.detail}
            </p>
          )}
          {whole.data.looked_at.some((o) => o.ruled_out === "") && (
            <section aria-label="Price ladder">
              <h3 className="flex text-[12px] text-ink-2">
                Price of one over the quantity
                {need.bought.length === 1 && (
                  <span className="ml-auto text-brass">··· the same money as what is bought</span>
                )}
              </h3>
              <Ladder
                offers={whole.data.looked_at}
                needed={Number(need.quantity)}
                bought={need.bought.map((b) => ({
                  offer: b.offer,
                  quantity: Number(b.quantity),
                  price: Number(b.price),
                }))}
                at={at}
              />
            </section>
          )}
          <section aria-label="Offers">
            <h3 className="flex items-baseline text-[12px] text-ink-2">
              {whole.data.looked_at.length > 0 ? "Offers; a digit takes one by hand" : "No offer yet"}
              <Keyed keys="O" needs="buying" className="ml-auto" onClick={onNewOffer}>
                New offer
              </Keyed>
            </h3>
            <OfferLedger need={whole.data} held={held} at={at} onAt={setAt} onTake={onTake} onLetGo={onLetGo} />
          </section>
          <InItsPlace key={`in place of ${need.part}`} need={whole.data} onAllow={onAllow} onDisallow={onDisallow} />
          {need.bought.length > 0 && <SoMany key={need.id} need={whole.data} onTake={onTake} />}
        </>
      )}
    </aside>
  );
}

/** Another quantity of what is bought, by hand. */
function SoMany({ need, onTake }: { need: NeedWhole; onTake: (offer: LookedAt, quantity: string) => void }) {
  const first = need.bought[0];
  const [text, setText] = useState(first?.quantity ?? "");
  const offer = need.looked_at.find((o) => o.offer === first?.offer);
  if (!offer) return null;
  return (
    <form
      className="flex items-center gap-2 border-t border-hair pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        onTake(offer, typed(text));
      }}
    >
      <label htmlFor="so-many" className="min-w-0 flex-1 text-ink-2">
        So many from {offer.supplier}
      </label>
      <input
        id="so-many"
        className="field !w-[90px] text-right"
        inputMode="decimal"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button needs="buying" type="submit" disabled={!text.trim() || text === first?.quantity}>
        Hold
      </Button>
    </form>
  );
}
