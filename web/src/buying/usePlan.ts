import { useMutation, useQuery } from "@tanstack/react-query";
import { useJobEnd, whileItRuns } from "../kit/JobProgress";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

export type Plan = Schemas["BuyPlanOut"];
export type PlanRow = Schemas["BuyPlanRow"];
export type NeedWhole = Schemas["NeedOut"];
export type Limits = Schemas["LimitsOut"];

/** One plan with its needs. */
export function usePlan(id: number) {
  const untrue = useUntrue();
  const found = useQuery({
    queryKey: ["buying", "plan", id],
    queryFn: () => answer(client.GET("/api/buying/plans/{plan_id}", { params: { path: { plan_id: id } } })),
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
    staleTime: 0,
  });
  useJobEnd(found.data?.job, () => untrue("plan"));
  return found;
}

/** A need whole: how it came to it, and every offer that was looked at. */
export function useNeed(id: number | undefined) {
  return useQuery({
    queryKey: ["buying", "need", id ?? 0],
    queryFn: () => answer(client.GET("/api/buying/needs/{need_id}", { params: { path: { need_id: id! } } })),
    enabled: id !== undefined,
    staleTime: 60_000,
  });
}

/** What is done with a plan, each from the version that is on screen. */
export function usePlanVerbs(plan: Plan) {
  const untrue = useUntrue();
  const say = useSay();
  const path = { plan_id: plan.id };
  const bad = (error: Refusal) => say(error.message, { bad: true });
  const again = useMutation<Plan, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/buying/plans/{plan_id}/plan", { params: { path } })),
    onSuccess: () => untrue("plan"),
    onError: bad,
  });
  const hold = useMutation<Plan, Refusal, { offer: number; quantity?: string }>({
    mutationFn: ({ offer, quantity }) =>
      answer(
        client.POST("/api/buying/plans/{plan_id}/hold", {
          params: { path },
          body: { offer, quantity: quantity ?? null, version: plan.version },
        }),
      ),
    onSuccess: () => untrue("plan"),
    onError: bad,
  });
  const letGo = useMutation<Plan, Refusal, number>({
    mutationFn: (offer) =>
      answer(
        client.POST("/api/buying/plans/{plan_id}/let-go", {
          params: { path },
          body: { offer, version: plan.version },
        }),
      ),
    onSuccess: () => untrue("plan"),
    onError: bad,
  });
  const allow = useMutation<Plan, Refusal, { part: string; instead_of: string }>({
    mutationFn: (body) =>
      answer(
        client.POST("/api/buying/plans/{plan_id}/allow", {
          params: { path },
          body: { ...body, version: plan.version },
        }),
      ),
    onSuccess: () => untrue("plan"),
    onError: bad,
  });
  const disallow = useMutation<Plan, Refusal, string>({
    mutationFn: (part) =>
      answer(
        client.POST("/api/buying/plans/{plan_id}/disallow", {
          params: { path },
          body: { part, instead_of: "", version: plan.version },
        }),
      ),
    onSuccess: () => untrue("plan"),
    onError: bad,
  });
  return { again, hold, letGo, allow, disallow };
}
