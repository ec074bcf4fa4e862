import { useState } from "react";
import { Button } from "../../kit/Button";
import { type FindingOut, useWaiver } from "./useFindings";

/** Lets a finding stand, with the reason; or says why it stands, and takes that back. */
export function Waive({ finding }: { finding: FindingOut }) {
  const [reason, setReason] = useState<string | null>(null);
  const waiver = useWaiver();
  if (finding.waived)
    return (
      <span className="text-ink-3">
        waived by {finding.waived.by}: {finding.waived.reason}
        <Button
          needs="sheets"
          look="quiet"
          className="!min-h-0 ml-2"
          onClick={() => waiver.mutate({ key: finding.key, reason: null })}
        >
          take back
        </Button>
      </span>
    );
  if (finding.severity === "stops") return null;
  if (reason === null)
    return (
      <Button needs="sheets" look="quiet" className="!min-h-0" onClick={() => setReason("")}>
        waive
      </Button>
    );
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        waiver.mutate({ key: finding.key, reason }, { onSuccess: () => setReason(null) });
      }}
    >
      <input
        className="field !min-h-[26px]"
        aria-label="Why it may stand"
        placeholder="why it may stand"
        autoFocus
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Escape") return;
          event.stopPropagation();
          setReason(null);
        }}
      />
      <Button className="!min-h-[26px] !px-2" type="submit" disabled={!reason.trim()}>
        Waive
      </Button>
    </form>
  );
}
