import { useMutation } from "@tanstack/react-query";
import { useSay } from "../kit/Says";
import type { Refusal, Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

export type Order = Schemas["WorkOrderOut"];
export type OrderRow = Schemas["WorkOrderRow"];
export type Stage = Schemas["StageOut"];
export type Component = Schemas["ComponentOut"];

/** How an order stands, in the order in which it goes on. */
export const STATES: Record<OrderRow["state"], string> = {
  planned: "planned",
  released: "released",
  running: "running",
  done: "done, not closed",
  closed: "closed",
  cancelled: "cancelled",
};

/** Something that is done on an order: what it makes untrue is read again, and what was refused is said where it was tried. */
export function useAct<V>(act: (value: V) => Promise<Order>, after?: (order: Order) => void) {
  const untrue = useUntrue();
  const say = useSay();
  return useMutation<Order, Refusal, V>({
    mutationFn: act,
    onSuccess: (order) => {
      untrue("work order");
      after?.(order);
    },
    onError: (error) => say(error.problems[0]?.message ?? error.message, { bad: true }),
  });
}
