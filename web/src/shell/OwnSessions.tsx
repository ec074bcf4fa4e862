import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime } from "../lib/number";

const KEY = ["own-sessions"] as const;

/** How many were ended, in words. */
export function endedWords(n: number): string {
  return n === 0 ? "Nothing else was open." : n === 1 ? "1 other session ended." : `${n} other sessions ended.`;
}

/** Where one is signed in: since when, from where; each but the one at hand can be ended. */
export function OwnSessions() {
  const queries = useQueryClient();
  const say = useSay();
  const open = useQuery({ queryKey: KEY, queryFn: () => answer(client.GET("/api/people/own-sessions")), staleTime: 0 });
  const end = useMutation<Schemas["Ended"], Refusal, string>({
    mutationFn: (name) => answer(client.POST("/api/people/own-sessions", { body: { name } })),
    onSuccess: ({ sessions }) => {
      say(endedWords(sessions));
      void queries.invalidateQueries({ queryKey: KEY });
    },
  });
  const sessions = open.data ?? [];
  return (
    <>
      <ul className="mt-2" aria-label="Where you are signed in">
        {sessions.map((s) => (
          <li key={s.name} className="flex items-baseline gap-2 border-b border-hair py-1.5">
            <span className="min-w-0 flex-1">
              {s.here ? <b className="font-semibold">Here</b> : s.place || "somewhere"}, since {dayAndTime(s.began)}
              <span className="block truncate text-[12px] text-ink-3" title={s.program}>
                last used {dayAndTime(s.seen)}
                {s.program && `; ${s.program}`}
              </span>
            </span>
            {!s.here && (
              <Button look="quiet" disabled={end.isPending} onClick={() => end.mutate(s.name)}>
                End it
              </Button>
            )}
          </li>
        ))}
      </ul>
      <div className="pt-2">
        <Button disabled={end.isPending || sessions.length < 2} onClick={() => end.mutate("")}>
          End my other sessions
        </Button>
      </div>
    </>
  );
}
