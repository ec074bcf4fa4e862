import { useMutation } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import type { Inquiry } from "./states";

/** Has the worker ask for parts data that are not known yet. */
export function useAskData(id: number) {
  const untrue = useUntrue();
  const say = useSay();
  return useMutation<Inquiry, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/inquiries/{inquiry_id}/data", { params: { path: { inquiry_id: id } } })),
    onSuccess: () => untrue("inquiry"),
    onError: (error) => say(error.message, { bad: true }),
  });
}

/** That parts data could not all be asked, and why; the work goes on without them. */
export function NoData({ inquiry }: { inquiry: Inquiry }) {
  const again = useAskData(inquiry.id);
  return (
    <p role="status" className="border border-hair-2 bg-brass-tint px-3 py-1 text-brass">
      Parts data: {inquiry.data}
      <Button
        look="quiet"
        needs="inquiries"
        className="!min-h-0 ml-2"
        disabled={again.isPending}
        onClick={() => again.mutate()}
      >
        Ask again
      </Button>
    </p>
  );
}
