import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../../kit/Button";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { day, quantity, typed } from "../../lib/number";
import { useMay } from "../../lib/session";
import { useUntrue } from "../../lib/untrue";

/** What is on hand of a part, the moves that made it, and a new move. Not a form: it stands inside the part's own. */
export function Stock({ part }: { part: string }) {
  const [amount, setAmount] = useState("");
  const [reason, setReason] = useState("");
  const may = useMay("stock");
  const say = useSay();
  const queries = useQueryClient();
  const untrue = useUntrue();
  const stock = useQuery({
    queryKey: ["part", part, "stock"],
    queryFn: () => answer(client.GET("/api/parts/one/stock", { params: { query: { number: part } } })),
    staleTime: 0,
  });
  const move = useMutation<Schemas["StockOut"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/parts/one/stock", {
          params: { query: { number: part } },
          body: { quantity: typed(amount), reason },
        }),
      ),
    onSuccess: (now) => {
      say(`${quantity(now.on_hand)} ${now.unit} of ${part} are on hand now.`);
      setAmount("");
      setReason("");
      queries.setQueryData(["part", part, "stock"], now);
      untrue("stock");
    },
  });
  if (!stock.data) return null;
  return (
    <div className="flex flex-col gap-1.5">
      <p>
        On hand <b className="text-[15px]">{quantity(stock.data.on_hand)}</b>{" "}
        <span className="text-ink-3">{stock.data.unit}</span>
        {Number(stock.data.spoken_for) > 0 && (
          <span className="text-ink-2">, {quantity(stock.data.spoken_for)} spoken for by work orders</span>
        )}
      </p>
      {!may ? (
        <Button needs="stock" className="self-start">
          Move
        </Button>
      ) : (
        <fieldset
          className="grid grid-cols-[96px_1fr_auto] gap-1.5"
          onKeyDown={(event) => {
            if (event.key !== "Enter") return;
            event.preventDefault();
            if (amount.trim()) move.mutate();
          }}
        >
          <input
            className="field !min-h-[28px] text-right"
            aria-label="Quantity moved; less than nought takes away"
            placeholder="+ or −"
            aria-invalid={!!move.error?.of("quantity")}
            value={amount}
            onChange={(event) => setAmount(event.target.value.replace("−", "-"))}
          />
          <input
            className="field !min-h-[28px]"
            aria-label="What moved it"
            placeholder="received, issued, counted"
            aria-invalid={!!move.error?.of("reason")}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button className="!min-h-[28px]" disabled={!amount.trim() || move.isPending} onClick={() => move.mutate()}>
            Move
          </Button>
        </fieldset>
      )}
      {move.error && (
        <p role="alert" className="text-bad">
          {move.error.message}
        </p>
      )}
      <ul className="text-[12px]">
        {stock.data.moves.slice(0, 8).map((m) => (
          <li key={m.at} className="grid grid-cols-[70px_1fr_auto] gap-2 border-b border-hair py-0.5">
            <span className="text-right">
              {Number(m.quantity) > 0 ? "+" : ""}
              {quantity(m.quantity)}
            </span>
            <span className="truncate">{m.reason}</span>
            <span className="text-ink-3">
              {m.by}, {day(m.at)}
            </span>
          </li>
        ))}
        {stock.data.count > 8 && <li className="text-ink-3">and {stock.data.count - 8} earlier moves</li>}
      </ul>
    </div>
  );
}
