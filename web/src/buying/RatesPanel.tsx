import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { JobProgress, useJobEnd, whileItRuns } from "../kit/JobProgress";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day, today, typed } from "../lib/number";
import { useReference } from "../lib/session";
import { useUntrue } from "../lib/untrue";

/** What currencies are worth in ours, from days on; a plan keeps the rate of its day. */
export function RatesPanel({ onClose }: { onClose: () => void }) {
  const [currency, setCurrency] = useState("");
  const [since, setSince] = useState(today());
  const [rate, setRate] = useState("");
  const own = useReference().data?.currency ?? "";
  const untrue = useUntrue();
  const list = useQuery({ queryKey: ["buying", "rates"], queryFn: () => answer(client.GET("/api/buying/rates")) });
  const save = useMutation<Schemas["CurrencyRate"][], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/buying/rates", { body: { currency, day: since, rate: typed(rate) } })),
    onSuccess: () => {
      setRate("");
      untrue("offer");
    },
  });
  return (
    <Panel title="Rates of currencies" note={`what one of each is worth in ${own}`} open onClose={onClose}>
      <form
        className="mt-4 grid grid-cols-[70px_130px_1fr_auto] items-start gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <input
          className="field"
          aria-label="Currency"
          placeholder="USD"
          autoFocus
          value={currency}
          onChange={(event) => setCurrency(event.target.value)}
        />
        <div>
          <DayField aria-label="From this day on" value={since} onKeep={(iso) => setSince(iso || today())} />
        </div>
        <input
          className="field text-right"
          aria-label="Rate"
          placeholder="rate"
          inputMode="decimal"
          value={rate}
          onChange={(event) => setRate(event.target.value)}
        />
        <Button needs="buying" look="strong" type="submit" disabled={save.isPending || !rate.trim()}>
          Keep
        </Button>
      </form>
      {save.error && (
        <p role="alert" className="pt-1 text-bad">
          {save.error.message}
        </p>
      )}
      <Feed />
      <ul className="mt-3">
        {(list.data ?? []).map((r) => (
          <li key={`${r.currency} ${r.day}`} className="grid grid-cols-[60px_1fr_90px] border-b border-hair py-1">
            <span className="font-semibold">{r.currency}</span>
            <span className="text-ink-2">
              from {day(r.day)}{" "}
              <span className="text-[12px] text-ink-3">
                {r.source}, {r.by}
              </span>
            </span>
            <span className="text-right">{r.rate}</span>
          </li>
        ))}
      </ul>
      {list.data?.length === 0 && (
        <p className="mt-3 text-ink-3">No rate is stated: offers in other currencies are not used.</p>
      )}
    </Panel>
  );
}

/** Rates that a service states day by day. */
function Feed() {
  const untrue = useUntrue();
  const feed = useQuery({
    queryKey: ["buying", "feed"],
    queryFn: () => answer(client.GET("/api/buying/feed")),
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
    staleTime: 0,
  });
  useJobEnd(feed.data?.job, () => untrue("offer"));
  const take = useMutation<Schemas["FeedOut"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/buying/feed")),
    onSuccess: () => untrue("offer"),
  });
  if (!feed.data?.words) return null;
  const wrong = take.error?.message ?? (feed.data.job ? "" : feed.data.failed);
  return (
    <div className="mt-3 border-y border-hair py-2">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 truncate text-ink-2">{feed.data.words}</span>
        <Button needs="buying" disabled={!!feed.data.job || take.isPending} onClick={() => take.mutate()}>
          Take what is new
        </Button>
      </div>
      {feed.data.job && <JobProgress job={feed.data.job} stale={["buying", "feed"]} className="mt-2" />}
      {wrong && (
        <p role="alert" className="pt-1 text-bad">
          {wrong}
        </p>
      )}
    </div>
  );
}
