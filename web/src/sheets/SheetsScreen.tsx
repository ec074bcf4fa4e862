import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { answer, client } from "../lib/api";
import { day } from "../lib/number";

/** The sheets changed last. */
export function SheetsScreen() {
  const recent = useQuery({
    queryKey: ["sheets", "recent"],
    queryFn: () => answer(client.GET("/api/sheets/recent")),
    staleTime: 0,
  });
  const navigate = useNavigate();
  const rows = recent.data ?? [];
  return (
    <div className="h-full overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">Build sheets</h1>
        <span className="text-ink-2">changed last; Ctrl K finds any</span>
        <Button needs="intake" className="ml-auto" onClick={() => navigate("/intake")}>
          Bring in a list
        </Button>
      </div>
      {recent.error && (
        <p role="alert" className="text-bad">
          {recent.error.message}
        </p>
      )}
      {recent.data && rows.length === 0 ? (
        <Empty
          title="No build sheets yet"
          action={
            <Button needs="parts" look="strong" autoFocus onClick={() => navigate("/parts?new=1")}>
              Make the first part
            </Button>
          }
        >
          A build sheet says how a made part is built: its operations and the lines each takes. Make a part of the kind
          “made”; its sheet opens at once.
        </Empty>
      ) : (
        <table className="w-full border-t border-ink bg-paper">
          <thead>
            <tr className="h-7 border-b border-hair-2 text-left text-[12px] text-ink-2">
              <th className="px-3 font-normal">Part</th>
              <th className="font-normal">Description</th>
              <th className="font-normal">Alternate</th>
              <th className="font-normal">Revision</th>
              <th className="font-normal">State</th>
              <th className="font-normal">In force</th>
              <th className="font-normal">Changed</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((sheet) => (
              <tr key={sheet.id} className="h-8 border-b border-hair hover:bg-blue-tint">
                <td className="px-3">
                  <Link
                    className="pn text-blue hover:underline"
                    to={`/sheets/${encodeURIComponent(sheet.part)}?sheet=${sheet.id}`}
                  >
                    {sheet.part}
                  </Link>
                </td>
                <td>{sheet.description}</td>
                <td>{sheet.alternate}</td>
                <td>{sheet.revision}</td>
                <td className={sheet.status === "draft" ? "font-semibold text-blue" : "text-ink-2"}>{sheet.status}</td>
                <td className="text-ink-2">
                  {sheet.status === "draft"
                    ? ""
                    : `from ${sheet.effective_from ? day(sheet.effective_from) : "the start"}`}
                  {sheet.effective_to ? `, up to ${day(sheet.effective_to)}` : ""}
                </td>
                <td className="text-ink-2">
                  {day(sheet.changed_at)}
                  {sheet.changed_by ? ` by ${sheet.changed_by}` : ""}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
