import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useJobEnd, whileItRuns } from "../kit/JobProgress";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import type { Decision } from "../model/handover";

export type ShownHandover = Schemas["HandoverShown"];

/** A handover with all that does not agree; asked for again while the other side is read or written. */
export function useHandover(id: number, agreeing: boolean) {
  const untrue = useUntrue();
  const found = useQuery({
    queryKey: ["handovers", id, agreeing],
    queryFn: () =>
      answer(client.GET("/api/handover/{handover_id}", { params: { path: { handover_id: id }, query: { agreeing } } })),
    staleTime: 0,
    refetchInterval: (query) => whileItRuns(query.state.data?.head.job),
    placeholderData: (before) => before,
  });
  useJobEnd(found.data?.head.job, () => untrue("handover"));
  return found;
}

/** What can be done to a handover; each answers with how it stands then. */
export function useHandoverVerbs(id: number) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  const say = useSay();
  const params = { path: { handover_id: id } };
  const settled = {
    onSuccess: (now: ShownHandover) => {
      queries.setQueryData(["handovers", id, false], now);
      // What was answered is how it stands; only other views of it are asked for again.
      queries.invalidateQueries({ queryKey: ["handovers", id, true] });
      queries.invalidateQueries({ queryKey: ["handovers", "all"] });
      if (now.head.state === "done") untrue("handover");
    },
    onError: (error: Refusal) => {
      say(error.message, { bad: true });
      queries.invalidateQueries({ queryKey: ["handovers", id] });
    },
  };
  const plain = (path: "read" | "finish" | "take-back" | "let-go") =>
    answer(client.POST(`/api/handover/{handover_id}/${path}` as "/api/handover/{handover_id}/read", { params }));
  return {
    decide: useMutation<ShownHandover, Refusal, Decision[]>({
      mutationFn: (decisions) =>
        answer(client.POST("/api/handover/{handover_id}/decisions", { params, body: { decisions } })),
      ...settled,
    }),
    plainly: useMutation<ShownHandover, Refusal, "read" | "finish" | "take-back" | "let-go">({
      mutationFn: plain,
      ...settled,
    }),
    handOver: useMutation<ShownHandover, Refusal, string>({
      mutationFn: (digest) =>
        answer(client.POST("/api/handover/{handover_id}/hand-over", { params, body: { digest } })),
      ...settled,
    }),
    keep: useMutation<ShownHandover, Refusal, { row: string; reason: string }>({
      mutationFn: (body) => answer(client.POST("/api/handover/{handover_id}/keep", { params, body })),
      ...settled,
    }),
    // What is wrong with a number is said where it is typed.
    knowAs: useMutation<ShownHandover, Refusal, Schemas["KnownAsIn"]>({
      mutationFn: (body) => answer(client.PUT("/api/handover/{handover_id}/known-as", { params, body })),
      onSuccess: settled.onSuccess,
    }),
    letGoLine: useMutation<ShownHandover, Refusal, number>({
      mutationFn: (by_hand_id) =>
        answer(
          client.POST("/api/handover/{handover_id}/by-hand/{by_hand_id}/let-go", {
            params: { path: { handover_id: id, by_hand_id } },
          }),
        ),
      ...settled,
    }),
  };
}
