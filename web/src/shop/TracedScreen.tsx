import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { ListFrame } from "../kit/ListFrame";
import { answer, client, type Schemas } from "../lib/api";
import { dayAndTime, quantity } from "../lib/number";
import { PartChoice } from "../pieces/PartChoice";

type Built = Schemas["BuiltOf"];

const to = (part: string, code: string) =>
  `/shop/traced?part=${encodeURIComponent(part)}&code=${encodeURIComponent(code)}`;

/** Lots and units of a part; of one of them what it was made of and where it went, from lot to lot in either direction. */
export function TracedScreen() {
  const [params, setParams] = useSearchParams();
  const part = params.get("part") ?? "";
  const code = params.get("code") ?? "";
  const lots = useQuery({
    queryKey: ["work-orders", "lots", part],
    queryFn: () => answer(client.GET("/api/shop/lots", { params: { query: { part } } })),
    enabled: !!part,
    staleTime: 0,
    retry: false,
  });
  const built = useQuery({
    queryKey: ["work-orders", "as-built", part, code],
    queryFn: () => answer(client.GET("/api/shop/as-built", { params: { query: { part, code } } })),
    enabled: !!part && !!code,
    staleTime: 0,
    retry: false,
  });
  return (
    <ListFrame
      title="Lots and units"
      words="What went into a unit, and where a lot went."
      error={lots.error?.message ?? built.error?.message}
      beside={
        <span className="ml-auto">
          <PartChoice label="Part" value={part} onKeep={(number) => setParams({ part: number })} />
        </span>
      }
    >
      <div className="grid min-h-0 flex-1 grid-cols-[230px_1fr] gap-5">
        <nav aria-label="Lots and units" className="overflow-y-auto border-t border-ink bg-paper">
          {!part && <p className="p-3 text-ink-2">Choose a part whose stock is told apart.</p>}
          {lots.data && lots.data.by === "" && (
            <p className="p-3 text-ink-2">
              {lots.data.part} is not told apart; that is said on the{" "}
              <Link className="text-blue underline" to={`/part/${encodeURIComponent(part)}`}>
                page of the part
              </Link>
              .
            </p>
          )}
          <ul>
            {lots.data?.lots.map((lot) => (
              <li key={lot.code}>
                <Link
                  to={to(part, lot.code)}
                  aria-current={lot.code === code}
                  className={`flex min-h-8 items-center justify-between border-b border-hair px-2 hover:bg-sunk ${lot.code === code ? "bg-blue-tint" : ""}`}
                >
                  <span className="pn">{lot.code}</span>
                  <span className={Number(lot.quantity) ? "" : "text-ink-3"}>
                    {Number(lot.quantity) ? `${quantity(lot.quantity)} there` : "gone"}
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        </nav>
        {built.data && (
          <section aria-label={`${part} ${code}`} className="min-h-0 overflow-y-auto">
            <h2 className="text-[17px] font-semibold">
              <span className="font-mono">{built.data.code}</span> of {built.data.part} {built.data.description}
            </h2>
            <ul className="pt-1 pb-4">
              {built.data.moves.map((move, at) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: moves have their places
                <li key={at} className="flex gap-4 border-b border-hair py-1">
                  <span className="w-[130px] text-ink-2">{dayAndTime(move.at)}</span>
                  <span className="w-[90px] text-right">
                    {Number(move.quantity) > 0 ? "+" : "−"}
                    {quantity(Math.abs(Number(move.quantity)))} {built.data.unit}
                  </span>
                  <span>
                    {move.order_id ? (
                      <Link className="text-blue underline" to={`/shop/orders/${move.order_id}`}>
                        {move.reason}
                      </Link>
                    ) : (
                      move.reason
                    )}
                  </span>
                  <span className="text-ink-2">{move.by}</span>
                </li>
              ))}
            </ul>
            <div className="grid grid-cols-2 gap-6">
              <Side
                title="What went into it"
                none="Nothing that is told apart went into it."
                rows={built.data.made_of}
              />
              <Side title="Where it went" none="It went into nothing that is told apart." rows={built.data.went_into} />
            </div>
            <p className="pt-3 text-ink-2">
              An order does not say which of its units took which: what went into the order may be in any of them.
            </p>
          </section>
        )}
      </div>
    </ListFrame>
  );
}

function Side({ title, none, rows }: { title: string; none: string; rows: Built[] }) {
  return (
    <section aria-label={title}>
      <h3 className="border-b border-ink font-semibold">{title}</h3>
      {rows.length === 0 && <p className="py-1 text-ink-2">{none}</p>}
      <ul>
        {rows.map((row) => (
          <li key={`${row.part} ${row.code} ${row.order}`} className="flex gap-3 border-b border-hair py-1">
            <span className="pn w-[100px]">{row.part}</span>
            <Link className="pn w-[130px] text-blue underline" to={to(row.part, row.code)}>
              {row.code}
            </Link>
            <span className="w-[70px] text-right">{quantity(row.quantity)}</span>
            <Link className="pn text-blue underline" to={`/shop/orders/${row.order_id}`}>
              {row.order}
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
