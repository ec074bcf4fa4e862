import { useInfiniteQuery, useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day, minutes, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";

type Work = Schemas["ListedWork"];

/** What was reported of finished orders, the last first; what was wrong is reversed with a reason and stays listed. */
export function ReportedOrders() {
  const [search, setSearch] = useState("");
  const found = useInfiniteQuery({
    queryKey: ["measured", "reported", search],
    queryFn: ({ pageParam }) =>
      answer(client.GET("/api/finished-orders", { params: { query: { search, after: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, all) => (last.more ? all.reduce((sum, page) => sum + page.rows.length, 0) : undefined),
    staleTime: 0,
  });
  const rows = found.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <section className="flex flex-col gap-2 border-t border-ink pt-3" aria-label="Reported">
      <div className="flex items-baseline gap-2">
        <h2 className="font-semibold">Reported</h2>
        <input
          type="search"
          className="field ml-auto !min-h-[26px] !w-[190px]"
          aria-label="Order or part"
          placeholder="order or part"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      </div>
      {found.data && rows.length === 0 && <p className="text-ink-2">Nothing {search ? "like that" : "yet"}.</p>}
      <ul>
        {rows.map((work) => (
          <OneReport key={work.id} work={work} />
        ))}
      </ul>
      {found.hasNextPage && (
        <Button className="self-start" onClick={() => found.fetchNextPage()}>
          Show more
        </Button>
      )}
    </section>
  );
}

function OneReport({ work }: { work: Work }) {
  const [reason, setReason] = useState<string | null>(null);
  const say = useSay();
  const untrue = useUntrue();
  const reverse = useMutation<Work, Refusal, string>({
    mutationFn: (words) =>
      answer(
        client.POST("/api/finished-orders/{key}/reverse", {
          params: { path: { key: work.id } },
          body: { reason: words },
        }),
      ),
    onSuccess: () => {
      say(`Operation ${work.sequence} of order ${work.order} counts no longer.`);
      untrue("finished order");
    },
  });
  const gone = work.reversed !== "";
  return (
    <li className="border-b border-hair py-1.5">
      <p className={`flex items-baseline gap-2 ${gone ? "text-ink-3" : ""}`}>
        <span className="pn">{work.order}</span>
        <span>
          <span className="pn">{work.part}</span>, operation {work.sequence}
        </span>
        <span className="ml-auto whitespace-nowrap">
          {quantity(work.quantity)} in {minutes(work.run_minutes)}
        </span>
        {!gone && reason === null && (
          <Button needs="finished orders" look="quiet" className="!min-h-0" onClick={() => setReason("")}>
            reverse
          </Button>
        )}
      </p>
      <small className="text-[11.5px] text-ink-3">
        {day(work.finished_on)}, by {work.by}
        {gone && `; ${work.reversed}`}
      </small>
      {reason !== null && !gone && (
        <form
          className="flex gap-1.5 pt-1"
          onSubmit={(event) => {
            event.preventDefault();
            reverse.mutate(reason);
          }}
        >
          <input
            className="field !min-h-[28px] flex-1"
            aria-label={`Why order ${work.order} is reversed`}
            placeholder="why"
            autoFocus
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button look="strong" type="submit" disabled={!reason.trim() || reverse.isPending}>
            Reverse
          </Button>
          <Button onClick={() => setReason(null)}>Keep</Button>
        </form>
      )}
      {reverse.error && (
        <p role="alert" className="text-bad">
          {reverse.error.message}
        </p>
      )}
    </li>
  );
}
