import { useMutation, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button } from "../../kit/Button";
import { DayField } from "../../kit/DayField";
import { useSay } from "../../kit/Says";
import { sendFile } from "../../kit/sendFile";
import { answer, client, type Refusal } from "../../lib/api";
import { day, quantity, typed } from "../../lib/number";
import { useMay } from "../../lib/session";
import { useUntrue } from "../../lib/untrue";

/** What is still to come of a part, and a new order or a list of them. Not a form: it stands inside the part's own. */
export function OpenOrders({ part, unit }: { part: string; unit: string }) {
  const [order, setOrder] = useState("");
  const [open, setOpen] = useState("");
  const [due, setDue] = useState("");
  const may = useMay("open orders");
  const say = useSay();
  const untrue = useUntrue();
  const input = useRef<HTMLInputElement>(null);
  const orders = useQuery({
    queryKey: ["part", part, "open orders"],
    queryFn: () => answer(client.GET("/api/parts/one/open-orders", { params: { query: { number: part } } })),
    staleTime: 0,
  });
  const keep = useMutation<{ count: number }, Refusal, File | null>({
    mutationFn: (file) =>
      file
        ? sendFile<{ count: number }>("/api/parts/open-orders/file", file)
        : answer(
            client.POST("/api/parts/open-orders", {
              body: {
                rows: [
                  ["Order", "Part", "Open", "Due"],
                  [order, part, typed(open), due],
                ],
              },
            }),
          ),
    onSuccess: (done) => {
      say(done.count === 1 ? "One open order kept." : `${done.count} rows of open orders kept.`);
      setOrder("");
      setOpen("");
      setDue("");
      untrue("open order");
    },
  });
  return (
    <section aria-label="Open orders" className="mt-2 flex flex-col gap-1.5">
      <p>
        On order{" "}
        <b className="text-[15px]">{quantity((orders.data ?? []).reduce((sum, o) => sum + Number(o.quantity), 0))}</b>{" "}
        <span className="text-ink-3">{unit}</span>
      </p>
      {!may ? (
        <Button needs="open orders" className="self-start">
          Keep
        </Button>
      ) : (
        <fieldset
          className="grid grid-cols-[1fr_80px_104px_auto] gap-1.5"
          onKeyDown={(event) => {
            if (event.key !== "Enter") return;
            event.preventDefault();
            if (order.trim() && open.trim()) keep.mutate(null);
          }}
        >
          <input
            className="field !min-h-[28px]"
            aria-label="Order"
            placeholder="order"
            value={order}
            onChange={(event) => setOrder(event.target.value)}
          />
          <input
            className="field !min-h-[28px] text-right"
            aria-label="Still to come; 0 closes it"
            placeholder="to come"
            value={open}
            onChange={(event) => setOpen(event.target.value)}
          />
          <DayField
            aria-label="Due on"
            className="field !min-h-[28px]"
            placeholder="due on"
            value={due}
            onKeep={setDue}
          />
          <Button
            className="!min-h-[28px]"
            disabled={!order.trim() || !open.trim() || keep.isPending}
            onClick={() => keep.mutate(null)}
          >
            Keep
          </Button>
        </fieldset>
      )}
      {keep.error && (
        <p role="alert" className="text-bad">
          {keep.error.message}
        </p>
      )}
      <ul className="text-[12px]">
        {(orders.data ?? []).map((o) => (
          <li key={o.order} className="grid grid-cols-[1fr_80px_104px] gap-2 border-b border-hair py-0.5">
            <span>{o.order}</span>
            <span className="text-right">{quantity(o.quantity)}</span>
            <span className="text-ink-3">{o.due_on ? day(o.due_on) : ""}</span>
          </li>
        ))}
      </ul>
      {may && (
        <div>
          <input
            ref={input}
            type="file"
            accept=".csv,.xlsx,.ods"
            className="hidden"
            aria-label="Open orders of any parts as a file"
            onChange={(event) => {
              const file = event.target.files?.[0];
              event.target.value = "";
              if (file) keep.mutate(file);
            }}
          />
          <Button look="quiet" className="!min-h-[26px] !px-0" onClick={() => input.current?.click()}>
            A list of open orders of any parts (Order, Part, Open, Due) …
          </Button>
        </div>
      )}
    </section>
  );
}
