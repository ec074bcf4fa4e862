import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { whileItRuns } from "../kit/JobProgress";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

export type Round = Schemas["RoundOut"];
export type RoundShort = Schemas["RoundShort"];
export type MovedRow = Schemas["RowOut"];

export const SCOPE_WORDS: Record<string, string> = {
  touched: "what its proposals reach",
  all: "every part",
  chosen: "chosen parts",
};

/** All rounds, the newest first. */
export function useRounds(enabled = true): RoundShort[] {
  return (
    useQuery({
      queryKey: ["rounds"],
      queryFn: () => answer(client.GET("/api/rounds")),
      enabled,
      staleTime: 5_000,
    }).data ?? []
  );
}

/** One round; while the worker is at it, how far it is. */
export function useRound(id: number) {
  return useQuery<Round, Refusal>({
    queryKey: ["rounds", id],
    queryFn: () => answer(client.GET("/api/rounds/{round_id}", { params: { path: { round_id: id } } })),
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
    staleTime: 0,
  });
}

/** Something that is done with a round and answers with it as it is then. */
export function useRoundVerb<V = void>(id: number, act: (value: V) => Promise<Round>) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  return useMutation<Round, Refusal, V>({
    mutationFn: act,
    onSuccess: (round) => {
      queries.setQueryData(["rounds", id], round);
      untrue("round");
    },
  });
}

/** Whether an element stays: what is left over when a cost is rounded by elements is a millionth or a few. */
export function still(before: number, after: number): boolean {
  return Math.abs(after - before) < 5e-6;
}
