import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, client } from "../lib/api";
import { quantity } from "../lib/number";
import { Section } from "./Section";

/** The lines that take a part, each leading to its sheet. */
export function Uses({ number }: { number: string }) {
  const found = useQuery({
    queryKey: ["sheets", "uses", number],
    queryFn: () => answer(client.GET("/api/parts/one/uses", { params: { query: { number } } })),
    staleTime: 0,
  });
  const { items = [], total = 0 } = found.data ?? {};
  return (
    <Section title="Used in" beside={total || ""}>
      {found.data && items.length === 0 && <p className="text-ink-3">No sheet takes it.</p>}
      <ul className="max-h-[260px] overflow-y-auto bg-paper">
        {items.map((use) => (
          <li key={use.line}>
            <Link
              to={`/sheets/${encodeURIComponent(use.part)}?sheet=${use.sheet}&at=${encodeURIComponent(`/${use.line}~part`)}`}
              className="grid grid-cols-[120px_1fr_auto] items-baseline gap-2 border-b border-hair px-2 py-1 outline-offset-[-2px] hover:bg-blue-tint"
            >
              <span className="pn truncate text-blue">{use.part}</span>
              <span className="truncate text-ink-2" title={use.description}>
                {use.revision}
                {use.status === "draft" ? ", draft" : ""}
                {use.option ? `, with ${use.option}` : ""}
                {use.kind === "byproduct" ? ", given back" : ""}
              </span>
              <span className="text-right">
                {use.quantity === null ? "as needed" : quantity(use.quantity, 6)}{" "}
                <span className="text-[12px] text-ink-3">{use.quantity === null ? "" : use.unit}</span>
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {total > items.length && <p className="pt-1 text-[12px] text-ink-3">and {total - items.length} more lines</p>}
    </Section>
  );
}
