import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useSession } from "../lib/session";
import type { QueryKey } from "../lib/untrue";
import { Button } from "./Button";
import { useSay } from "./Says";

export type Job = Schemas["JobOut"];

/** How often to ask again while long work waits or runs. */
export const whileItRuns = (job: Job | null | undefined): number | false => (job ? 600 : false);

/** What is to happen when long work that was seen going on has ended. */
export function useJobEnd(job: Job | null | undefined, ended: () => void) {
  const was = useRef<number | null>(null);
  const last = useRef(ended);
  last.current = ended;
  useEffect(() => {
    if (was.current !== null && !job) last.current();
    was.current = job?.id ?? null;
  }, [job]);
}

/** What the worker does, how far it is, and a way to stop it for who asked for it. */
export function JobProgress({ job, stale, className = "" }: { job: Job; stale: QueryKey; className?: string }) {
  const queries = useQueryClient();
  const say = useSay();
  const me = useSession().data?.user;
  const stop = useMutation<Schemas["JobStands"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/jobs/{job_id}/stop", { params: { path: { job_id: job.id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: stale }),
    onError: (error) => say(error.message, { bad: true }),
  });
  return (
    <div
      role="status"
      className={`flex items-center gap-3 border border-blue-line bg-blue-tint px-3 py-1.5 ${className}`}
      title={`${job.title}, asked for by ${job.asked_by}`}
    >
      <span className="text-blue">
        {job.doing}
        {job.steps > 0 && ` (step ${job.step} of ${job.steps})`} …
      </span>
      <span className="h-1.5 w-32 shrink-0 bg-paper">
        <span
          className="block h-full bg-blue"
          style={{ width: `${job.steps ? (100 * job.step) / job.steps : job.waits ? 0 : 4}%` }}
        />
      </span>
      <span className="text-[12px] text-ink-2">This screen may be left; it goes on.</span>
      {me === job.asked_by && (
        <Button
          look="quiet"
          className="!min-h-0"
          disabled={stop.isPending || stop.isSuccess}
          onClick={() => stop.mutate()}
        >
          {stop.isSuccess ? "Stopping …" : "Stop"}
        </Button>
      )}
    </div>
  );
}
