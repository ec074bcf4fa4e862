import { useQuery } from "@tanstack/react-query";
import { Panel } from "../../kit/Panel";
import { answer, client, type SheetHead } from "../../lib/api";
import { day } from "../../lib/number";

/** What happened to a sheet, the newest first: who, when, why, and each field. */
export function HistoryPanel({ sheet, onClose }: { sheet: SheetHead; onClose: () => void }) {
  const history = useQuery({
    queryKey: ["sheets", "history", sheet.id],
    queryFn: () => answer(client.GET("/api/sheets/{sheet_id}/history", { params: { path: { sheet_id: sheet.id } } })),
    staleTime: 0,
  });
  return (
    <Panel title={`History of ${sheet.part}, ${sheet.alternate}, revision ${sheet.revision}`} open onClose={onClose}>
      {history.error && (
        <p role="alert" className="mt-3 text-bad">
          {history.error.message}
        </p>
      )}
      <ol className="mt-4 flex flex-col gap-3">
        {history.data?.map((entry) => (
          <li key={entry.at} className="border-l-2 border-hair-2 pl-3">
            <p className="text-ink-2">
              <b className="font-semibold text-ink">{entry.by || "from outside"}</b>, {day(entry.at)}{" "}
              {entry.at.slice(11, 16)} UTC
              {entry.reason && <> — {entry.reason}</>}
            </p>
            <ul>
              {entry.changes.map((c) => (
                <li key={`${c.what}${c.field}${c.after}`}>
                  {c.what} {c.field && <span className="text-ink-2">{c.field}: </span>}
                  {c.before && <s className="text-ink-3">{c.before}</s>} {c.after || (c.field ? "nothing" : "")}
                </li>
              ))}
              {entry.more > 0 && <li className="text-ink-3">and {entry.more} more</li>}
            </ul>
          </li>
        ))}
      </ol>
    </Panel>
  );
}
