import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { JobProgress, useJobEnd, whileItRuns } from "../kit/JobProgress";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";

type Asking = Schemas["AskingOut"];

/** Suppliers whose services say at once what the plan's makers' numbers cost; the plan is made anew with what they say. */
export function ServicesAsked({ plan }: { plan: number }) {
  const untrue = useUntrue();
  const path = { plan_id: plan };
  const asking = useQuery({
    queryKey: ["buying", "asking", plan],
    queryFn: () => answer(client.GET("/api/buying/plans/{plan_id}/asking", { params: { path } })),
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
    staleTime: 0,
  });
  useJobEnd(asking.data?.job, () => untrue("plan"));
  const ask = useMutation<Asking, Refusal, boolean>({
    mutationFn: (again) =>
      answer(client.POST("/api/buying/plans/{plan_id}/asking", { params: { path }, body: { again } })),
    onSuccess: () => untrue("plan"),
  });
  const { suppliers = [], job = null, failed = "" } = asking.data ?? {};
  if (suppliers.length === 0) return null;
  const waiting = suppliers.reduce((sum, s) => sum + s.waiting, 0);
  const wrong = ask.error?.message ?? (job ? "" : failed);
  return (
    <section className="mt-4" aria-label="By their services">
      <h3 className="font-semibold">
        By their services <span className="font-normal text-ink-3">for each approved maker's number they may sell</span>
      </h3>
      <ul className="pt-1">
        {suppliers.map((s) => (
          <li key={s.supplier} className="border-b border-hair py-1">
            <div className="flex items-baseline gap-2">
              <span className="min-w-0 flex-1 truncate">{s.supplier}</span>
              <span className={s.waiting ? "" : "text-ink-3"}>
                {s.waiting
                  ? `${quantity(s.waiting)} of ${quantity(s.numbers)} to ask`
                  : `all ${quantity(s.numbers)} known`}
              </span>
            </div>
            <p className="text-[12px] text-ink-3">
              {s.service}
              {s.last ? `, last asked ${dayAndTime(s.last)}` : ", not asked yet"}; what it says holds {s.holds_hours}{" "}
              hours
            </p>
          </li>
        ))}
      </ul>
      {job && <JobProgress job={job} stale={["buying", "asking", plan]} className="mt-2" />}
      {wrong && (
        <p role="alert" className="pt-1 text-bad">
          {wrong}
        </p>
      )}
      <div className="flex gap-2 pt-2">
        <Button
          needs="buying"
          look="strong"
          disabled={!!job || ask.isPending || waiting === 0}
          onClick={() => ask.mutate(false)}
        >
          Ask them
        </Button>
        <Button needs="buying" disabled={!!job || ask.isPending} onClick={() => ask.mutate(true)}>
          Ask for all of it again
        </Button>
      </div>
    </section>
  );
}
