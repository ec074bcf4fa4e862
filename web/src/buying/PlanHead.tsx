import { useMutation } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { useRounds } from "../pieces/useRounds";
import type { Limits, Plan } from "./usePlan";

export type Opened = "builds" | "limits" | "offer" | "requests" | null;

/** The limits that are not those of a new plan, in words. */
function limitsInWords(limits: Limits): string {
  return [
    limits.hold_to_days ? "" : "days are not held to",
    limits.split > 1 ? `spread over ${limits.split} offers` : "",
    limits.surplus_percent !== null ? `at most ${limits.surplus_percent} % over` : "",
    limits.surplus_worth_percent !== "0" ? `surplus worth ${limits.surplus_worth_percent} %` : "",
    limits.most_suppliers !== null ? `at most ${limits.most_suppliers} suppliers` : "",
    limits.barred.length ? `without ${limits.barred.join(", ")}` : "",
    limits.barred_makers.length ? `nothing of ${limits.barred_makers.join(", ")}` : "",
    limits.oldest_days !== null ? `prices of ${limits.oldest_days} days at most` : "",
    limits.use_stock ? "" : "stock left alone",
    limits.use_orders ? "" : "open orders not counted",
    limits.drafts ? "drafts count" : "",
  ]
    .filter(Boolean)
    .join(", ");
}

/** What the plan is for and what its figures hold for. */
export function PlanHead({
  plan,
  onOpen,
  onAgain,
}: {
  plan: Plan;
  onOpen: (what: Opened) => void;
  onAgain: () => void;
}) {
  const say = useSay();
  const untrue = useUntrue();
  const navigate = useNavigate();
  const order = useMutation<Schemas["OrdersMade"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/orders/of-plan/{plan_id}", {
          params: { path: { plan_id: plan.id } },
          body: { version: plan.version },
        }),
      ),
    onSuccess: (made) => {
      untrue("order");
      say(
        `Made ${made.orders.length} ${made.orders.length === 1 ? "order" : "orders"}, not placed yet: look at them first.`,
      );
      navigate("/orders");
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  const limits = limitsInWords(plan.limits);
  const builds = plan.builds
    .map((b) => `${quantity(b.quantity)} × ${b.part}${b.options.length ? ` with ${b.options.join(", ")}` : ""}`)
    .join(", ");
  const days = [...new Set(plan.builds.map((b) => b.by))];
  return (
    <div className="flex items-baseline gap-3">
      <h1 className="flex min-w-0 shrink-0 items-baseline gap-2 text-[18px] font-semibold">
        <span className="font-mono text-[16px]">{plan.number}</span>
        <span className="max-w-[300px] truncate">{plan.title}</span>
      </h1>
      {plan.inquiry && (
        <Link className="pn text-blue underline" to={`/inquiries/${plan.inquiry}`}>
          {plan.inquiry_number}
        </Link>
      )}
      <span className="min-w-0 truncate text-ink-2" title={`${builds}${limits ? `; ${limits}` : ""}`}>
        {builds}
        {days.length === 1 && days[0] && `, material by ${day(days[0])}`}
        {limits && <span className="text-ink-3"> · {limits}</span>}
      </span>
      <span className="ml-auto flex shrink-0 items-baseline gap-2">
        {plan.planned_at && !plan.job && (
          <span className={`text-[12px] ${plan.behind ? "text-brass" : "text-ink-3"}`}>
            {plan.behind ? "changed since it was planned" : `planned ${day(plan.planned_at)}`}
          </span>
        )}
        <Button onClick={() => onOpen("builds")}>Builds</Button>
        <Button onClick={() => onOpen("limits")}>Limits</Button>
        {plan.needs.length > 0 && <Button onClick={() => onOpen("requests")}>Ask suppliers</Button>}
        <Button needs="buying" look={plan.behind ? "strong" : "plain"} disabled={!!plan.job} onClick={onAgain}>
          Plan anew
        </Button>
        {plan.orders.length > 0 && <IntoRound plan={plan} />}
        {plan.orders.length > 0 && (
          <Button needs="buying" disabled={plan.behind || !!plan.job || order.isPending} onClick={() => order.mutate()}>
            Order it
          </Button>
        )}
      </span>
    </div>
  );
}

/** Planned prices as proposals of an open round. */
function IntoRound({ plan }: { plan: Plan }) {
  const rounds = useRounds().filter((r) => r.status === "open");
  const say = useSay();
  const untrue = useUntrue();
  const put = useMutation<Schemas["PricesProposed"], Refusal, { round: number; name: string }>({
    mutationFn: ({ round }) =>
      answer(
        client.POST("/api/buying/plans/{plan_id}/propose", { params: { path: { plan_id: plan.id } }, body: { round } }),
      ),
    onSuccess: ({ count }, { name }) => {
      untrue("round");
      say(`Proposed ${count} prices in ${name}; the parts stand as they stood.`);
    },
    onError: (error) => say(error.problems[0]?.message ?? error.message, { bad: true }),
  });
  if (rounds.length === 0) return null;
  return (
    <Menu label="Prices into …">
      {rounds.map((r) => (
        <MenuItem key={r.id} needs="rounds" onSelect={() => put.mutate({ round: r.id, name: r.name })}>
          the round {r.name}
        </MenuItem>
      ))}
    </Menu>
  );
}
