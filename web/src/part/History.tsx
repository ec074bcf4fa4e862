import { useQuery } from "@tanstack/react-query";
import { answer, client } from "../lib/api";
import { day } from "../lib/number";
import { Section } from "./Section";

/** Who changed which field of a part, from what to what. */
export function History({ number, version }: { number: string; version: number }) {
  const found = useQuery({
    queryKey: ["part", number, "history", version],
    queryFn: () => answer(client.GET("/api/parts/one/history", { params: { query: { number } } })),
    staleTime: 0,
  });
  return (
    <Section title="History">
      <ol className="bg-paper">
        {(found.data ?? []).map((entry) => (
          <li
            key={`${entry.at} ${entry.by}`}
            className="grid grid-cols-[170px_1fr] gap-3 border-b border-hair px-2 py-1"
          >
            <span className="text-ink-2">
              {day(entry.at)}, {entry.at.slice(11, 16)} {entry.by}
            </span>
            <span>
              {entry.made && <span className="mr-3 text-ink-2">made</span>}
              {entry.changes.map((change) => (
                <span key={change.field} className="mr-4 inline-block">
                  <span className="text-ink-2">{change.field}</span>{" "}
                  <span className="text-ink-3 line-through">{change.before}</span> {change.after || "empty"}
                </span>
              ))}
              {entry.reason && <span className="text-ink-3">{entry.reason}</span>}
            </span>
          </li>
        ))}
      </ol>
    </Section>
  );
}
