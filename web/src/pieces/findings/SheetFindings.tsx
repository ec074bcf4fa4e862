import type { Ref } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../kit/Button";
import { SeverityMark } from "./SeverityMark";
import { type FindingOut, placeOf } from "./useFindings";
import { Waive } from "./Waive";

/** What is found on the sheet on screen and below it, beside the sheet; a finding leads to its line. */
export function SheetFindings({
  findings,
  sheet,
  onLine,
  onClose,
  panel,
}: {
  findings: FindingOut[];
  sheet: number;
  onLine: (line: string) => void;
  onClose: () => void;
  panel: Ref<HTMLElement>;
}) {
  const navigate = useNavigate();
  const open = findings.filter((f) => !f.waived);
  const waived = findings.filter((f) => f.waived);
  const one = (f: FindingOut) => (
    <li key={`${f.key}${f.line}${f.message}`} className="flex flex-col items-start gap-0.5 border-b border-hair py-2">
      <span className="flex w-full items-baseline gap-2">
        <SeverityMark severity={f.severity} />
        <button
          type="button"
          className="min-w-0 truncate text-left text-blue hover:underline"
          onClick={() => (f.sheet === sheet && f.line ? onLine(f.line) : navigate(placeOf(f)))}
        >
          <span className="pn">{f.part}</span>
          {f.revision && ` ${f.revision}`}
          {f.item !== null && `, item ${f.item}`}
        </button>
      </span>
      <span>{f.message}</span>
      {!f.waived && <span className="text-[12px] text-ink-2">To mend it: {f.mend}.</span>}
      <Waive finding={f} />
    </li>
  );
  return (
    <section
      ref={panel}
      tabIndex={-1}
      aria-label="Findings"
      onKeyDown={(event) => {
        if (event.key === "Escape") {
          event.stopPropagation();
          onClose();
        }
      }}
    >
      <div className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold text-blue">Findings, here and below</h2>
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          close
        </Button>
      </div>
      {open.length === 0 && <p className="py-2">Nothing is found that stands in the way.</p>}
      <ul>{open.map(one)}</ul>
      {waived.length > 0 && (
        <>
          <h3 className="mt-3 text-[12px] font-semibold text-ink-2">Waived</h3>
          <ul>{waived.map(one)}</ul>
        </>
      )}
    </section>
  );
}
