import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, client } from "../lib/api";

/** The operations done at a work center: what a change of its rates would touch. */
export function CenterUses({ code }: { code: string }) {
  const uses = useQuery({
    queryKey: ["work-centers", code, "uses"],
    queryFn: () => answer(client.GET("/api/work-centers/one/uses", { params: { query: { code } } })),
    staleTime: 0,
  });
  if (uses.error) return <p className="text-bad">{uses.error.message}</p>;
  if (!uses.data) return <p className="text-ink-3">…</p>;
  if (uses.data.length === 0) return <p className="text-ink-3">No sheet has an operation here.</p>;
  return (
    <ul aria-label="Operations done here" className="max-h-[260px] overflow-y-auto border-t border-hair">
      {uses.data.map((use) => (
        <li key={`${use.sheet}-${use.sequence}`} className="flex items-baseline gap-2 border-b border-hair py-0.5">
          <Link
            className="pn shrink-0 text-blue hover:underline"
            to={`/sheets/${encodeURIComponent(use.part)}?sheet=${use.sheet}`}
          >
            {use.part}
          </Link>
          <span className="min-w-0 truncate">
            {use.sequence} {use.name}
          </span>
          <span className="ml-auto text-[12px] whitespace-nowrap text-ink-3">
            {use.revision}
            {use.status === "draft" ? ", draft" : ""}
          </span>
        </li>
      ))}
    </ul>
  );
}
