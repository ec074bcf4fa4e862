import { useMutation, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal } from "../lib/api";
import { day } from "../lib/number";
import { useUntrue } from "../lib/untrue";

/** What is remembered of a sender: their numbers and the parts of ours they were paired with. */
export function Remembered({ code }: { code: string }) {
  const say = useSay();
  const untrue = useUntrue();
  const pairs = useQuery({
    queryKey: ["inquiries", "pairs", code],
    queryFn: () => answer(client.GET("/api/inquiries/pairs", { params: { query: { sender: code } } })),
  });
  const forget = useMutation<unknown, Refusal, number>({
    mutationFn: (pair) =>
      answer(client.POST("/api/inquiries/pairs/{pair_id}/forget", { params: { path: { pair_id: pair } } })),
    onSuccess: () => untrue("inquiry"),
    onError: (error) => say(error.message, { bad: true }),
  });
  if (!pairs.data?.length) return null;
  return (
    <details className="mt-5">
      <summary className="font-semibold">
        {pairs.data.length} of their numbers {pairs.data.length === 1 ? "is" : "are"} paired with ours
      </summary>
      <ul className="mt-1">
        {pairs.data.map((pair) => (
          <li key={pair.id} className="border-t border-hair py-1" title={pair.described}>
            <span className="flex items-baseline gap-2">
              <span className="pn min-w-0 truncate">{pair.number}</span>
              <span className="text-ink-3">→</span>
              <Link className="pn text-blue hover:underline" to={`/part/${encodeURIComponent(pair.part)}`}>
                {pair.part}
              </Link>
              <Button
                look="quiet"
                needs="inquiries"
                className="!min-h-0 ml-auto"
                onClick={() => forget.mutate(pair.id)}
              >
                forget
              </Button>
            </span>
            <span className="block text-[12px] text-ink-3">
              {pair.by}, {day(pair.at)}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
