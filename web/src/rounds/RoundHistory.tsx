import { useQuery } from "@tanstack/react-query";
import { Panel } from "../kit/Panel";
import { answer, client } from "../lib/api";
import { day } from "../lib/number";
import type { Round } from "../pieces/useRounds";

/** What was done with a round, the last first. */
export function RoundHistory({ round, onClose }: { round: Round; onClose: () => void }) {
  const events = useQuery({
    queryKey: ["rounds", round.id, "history", round.version, round.status],
    queryFn: () => answer(client.GET("/api/rounds/{round_id}/history", { params: { path: { round_id: round.id } } })),
    staleTime: 0,
  });
  return (
    <Panel title={`History of ${round.name}`} open onClose={onClose}>
      <ol className="mt-4">
        {events.data?.map((e) => (
          <li key={e.at} className="grid grid-cols-[150px_1fr] gap-3 border-b border-hair py-1">
            <span className="text-ink-2">
              {day(e.at)}, {e.at.slice(11, 16)} UTC
              <br />
              {e.by}
            </span>
            <span>{e.what}</span>
          </li>
        ))}
      </ol>
    </Panel>
  );
}
