import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, client } from "../lib/api";

/** Where a sheet and its lines came from. */
function useOrigins(sheet: number) {
  return useQuery({
    queryKey: ["inquiries", "origins", sheet],
    queryFn: () => answer(client.GET("/api/inquiries/origins/{sheet_id}", { params: { path: { sheet_id: sheet } } })),
  }).data;
}

/** The inquiry that became a sheet, where one did. */
export function ItsInquiry({ sheet }: { sheet: number }) {
  const last = useOrigins(sheet)?.inquiries[0];
  if (!last) return null;
  return (
    <Link className="whitespace-nowrap text-blue hover:underline" to={`/inquiries/${last.id}`} title={last.title}>
      inquiry <span className="pn">{last.number}</span>
    </Link>
  );
}

/** The row of a sender's list that a line came from, where it came from one. */
export function CameFrom({ sheet, line }: { sheet: number; line: string }) {
  const from = useOrigins(sheet)?.lines[line];
  if (!from) return null;
  return (
    <p className="text-ink-2">
      came from{" "}
      <Link className="text-blue hover:underline" to={`/inquiries/${from.inquiry}?line=${from.line}`}>
        {from.file}, row {from.row}
      </Link>
    </p>
  );
}
