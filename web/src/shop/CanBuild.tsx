import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Schemas } from "../lib/api";
import { quantity, typed } from "../lib/number";
import { PartChoice } from "../pieces/PartChoice";
import { useAct } from "./states";

type Wanted = { part: string; quantity: string };

/** What can be built from stock: for one part the most, for several in their order who gets what. */
export function CanBuild({ part, onClose }: { part: string; onClose: () => void }) {
  const [wanted, setWanted] = useState<Wanted[]>([{ part, quantity: "" }]);
  const asked = wanted.filter((w) => w.part).map((w) => ({ part: w.part, quantity: typed(w.quantity) }));
  const said = useQuery({
    queryKey: ["work-orders", "can-build", asked],
    queryFn: () => answer(client.POST("/api/shop/can-build", { body: asked })),
    enabled: asked.length > 0,
    staleTime: 0,
    placeholderData: (old) => old,
    retry: false,
  });
  const set = (at: number, more: Partial<Wanted>) =>
    setWanted(wanted.map((w, i) => (i === at ? { ...w, ...more } : w)));
  return (
    <section aria-label="Can it be built" className="mb-3 border-t border-ink bg-paper px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        {wanted.map((w, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the same part may stand there twice
          <span key={i} className="flex items-center gap-1.5">
            <PartChoice label="Part" value={w.part} onKeep={(next) => set(i, { part: next })} />
            <input
              className="field !w-[80px] text-right"
              aria-label={`How many of ${w.part || "it"}`}
              placeholder="most"
              inputMode="decimal"
              value={w.quantity}
              onChange={(event) => set(i, { quantity: event.target.value })}
            />
          </span>
        ))}
        <Button look="quiet" onClick={() => setWanted([...wanted, { part: "", quantity: "" }])}>
          + a part after it
        </Button>
        <Button className="ml-auto" onClick={onClose}>
          Close
        </Button>
      </div>
      {said.error && (
        <p role="alert" className="pt-1 text-bad">
          {said.error.message}
        </p>
      )}
      <div className="max-h-[360px] overflow-y-auto">
        {said.data?.map((answered, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: answers stand as they were asked
          <Answer key={i} said={answered} />
        ))}
      </div>
    </section>
  );
}

function Answer({ said }: { said: Schemas["CanBuildOut"] }) {
  const navigate = useNavigate();
  const say = useSay();
  const key = useRef(crypto.randomUUID());
  const short = said.rows.filter((r) => Number(r.short) > 0);
  const build = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/at-once", {
          body: { key: key.current, part: said.part, quantity: said.wanted, options: [] },
        }),
      ),
    (order) => {
      say(`Built ${quantity(order.good)} ${order.unit} of ${order.part}: ${order.number}.`);
      navigate(`/shop/orders/${order.id}`);
    },
  );
  return (
    <div className="pt-2">
      <p>
        <b className="pn">{said.part}</b>{" "}
        {said.most === null ? (
          "takes nothing that is kept in stock."
        ) : (
          <>
            can be built <b className="text-[17px]">{quantity(said.most)}</b> times from what is free.
            {said.limited_by.length > 0 && (
              <>
                {" "}
                One more lacks <span className="pn">{said.limited_by.slice(0, 6).join(", ")}</span>
                {said.limited_by.length > 6 && ` and ${said.limited_by.length - 6} more`}.
              </>
            )}
          </>
        )}
        {said.wanted && short.length === 0 && (
          <Button needs="work orders" className="ml-3" disabled={build.isPending} onClick={() => build.mutate()}>
            Build {quantity(said.wanted)} at once
          </Button>
        )}
      </p>
      {said.wanted && (
        <table className="mt-1 w-full max-w-[820px]">
          <thead>
            <tr className="border-b border-hair-2 text-left text-[12px] text-ink-2 [&>th]:font-normal">
              <th>part</th>
              <th>what it is</th>
              <th className="text-right">needed</th>
              <th className="text-right">on hand</th>
              <th className="text-right">free for it</th>
              <th className="text-right">short</th>
            </tr>
          </thead>
          <tbody>
            {said.rows.map((row) => (
              <tr key={row.part} className="h-7 border-b border-hair">
                <td>
                  <Link className="pn text-blue hover:underline" to={`/part/${encodeURIComponent(row.part)}`}>
                    {row.part}
                  </Link>
                </td>
                <td className="text-ink-2">{row.description}</td>
                <td className="text-right">{quantity(row.needed)}</td>
                <td className="text-right">{quantity(row.on_hand)}</td>
                <td className="text-right">{quantity(row.free)}</td>
                <td className={`text-right ${Number(row.short) > 0 ? "font-semibold text-bad" : "text-ink-3"}`}>
                  {Number(row.short) > 0
                    ? `${quantity(row.short)} ${row.unit}`
                    : row.kind === "made" && Number(row.free) < Number(row.needed)
                      ? "is made"
                      : "–"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
