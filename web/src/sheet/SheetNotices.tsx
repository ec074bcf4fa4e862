import { Button } from "../kit/Button";
import type { SheetHead } from "../lib/api";
import { day } from "../lib/number";
import { wordsOf } from "../model/words";
import type { ReadWork } from "./useWork";

/** From when to when a sheet holds, in words. */
function holdsWhen(sheet: SheetHead): string {
  const name = `Revision ${sheet.revision} of alternate ${sheet.alternate}`;
  if (sheet.status === "draft") return `${name} is a draft and counts on no day yet.`;
  if (sheet.status === "retired") return `${name} is retired and counts on no day.`;
  const { effective_from: from, effective_to: to } = sheet;
  if (!from && !to) return `${name} holds on every day, but is not the one that is taken.`;
  return `${name} holds ${from ? `from ${day(from)}` : ""}${from && to ? " " : ""}${to ? `up to, not on, ${day(to)}` : from ? " on" : ""}.`;
}

/** What is to be known before the sheet is read: what is not saved, which sheet counts, what is missing. */
export function SheetNotices({ work, counts }: { work: ReadWork; counts: SheetHead | null }) {
  const { head, view, query, queue, basis } = work;
  const { unsent } = queue;
  return (
    <>
      {(view.problem || query.error) && (
        <p role="alert" className="border-b border-bad bg-bad-tint px-4 py-1.5 text-bad">
          {query.error?.message ?? view.problem}
        </p>
      )}
      {unsent && (
        <p role="alert" className="flex items-center gap-3 border-b border-bad bg-bad-tint px-4 py-1.5 text-bad">
          <span>
            {unsent.steps.length === 1
              ? "One change is not saved yet: "
              : `${unsent.steps.length} changes are not saved yet: `}
            {unsent.steps
              .slice(0, 2)
              .map((step) => wordsOf(view, step.changes))
              .join("; ")}
            . {unsent.reason}
          </span>
          <Button className="!min-h-[26px] !px-2" onClick={() => queue.settleUnsent(true)}>
            Try again
          </Button>
          <Button look="quiet" className="!min-h-0" onClick={() => queue.settleUnsent(false)}>
            Let them go
          </Button>
        </p>
      )}
      {counts?.id !== head.id && (head.status !== "draft" || !basis.drafts) && (
        <p className="flex items-center gap-3 border-b border-brass bg-brass-tint px-4 py-1.5 text-brass">
          <span>
            {holdsWhen(head)} On {day(basis.day || view.basis.as_of)}{" "}
            {counts
              ? `${counts.alternate === head.alternate ? "" : `alternate ${counts.alternate}, `}revision ${counts.revision} counts.`
              : "no sheet of it counts."}
          </span>
          {counts && (
            <Button look="quiet" className="!min-h-0" onClick={() => work.onShow(counts.id)}>
              Show revision {counts.revision}
            </Button>
          )}
        </p>
      )}
      {view.missing.length > 0 && (
        <p className="border-b border-brass bg-brass-tint px-4 py-1.5 text-brass">
          Without a build sheet in force on this basis, and so counted at nothing: {view.missing.slice(0, 6).join(", ")}
          {view.missing.length > 6 ? ` and ${view.missing.length - 6} more` : ""}.
        </p>
      )}
    </>
  );
}
