import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type SheetHead } from "../lib/api";

/** Release a draft: from which day, and why. */
export function ReleasePanel({ sheet, onClose }: { sheet: SheetHead; onClose: () => void }) {
  const [firstDay, setFirstDay] = useState(new Date().toISOString().slice(0, 10));
  const [reason, setReason] = useState("");
  const queries = useQueryClient();
  const say = useSay();
  const release = useMutation<SheetHead, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/sheets/{sheet_id}/release", {
          params: { path: { sheet_id: sheet.id } },
          body: { version: sheet.version, first_day: firstDay, reason },
        }),
      ),
    onSuccess: () => {
      say(`Released revision ${sheet.revision} of ${sheet.part}. It is locked now; a new revision can follow it.`);
      queries.invalidateQueries();
      onClose();
    },
  });
  return (
    <Panel
      title={`Release ${sheet.part}, revision ${sheet.revision}`}
      note="A released revision is locked. This cannot be undone; a new revision can follow it."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          release.mutate();
        }}
      >
        <Field label="In force from">{(p) => <DayField {...p} value={firstDay} onKeep={setFirstDay} />}</Field>
        <Field label="Reason" error={release.error?.message}>
          {(p) => (
            <input {...p} className="field" autoFocus value={reason} onChange={(e) => setReason(e.target.value)} />
          )}
        </Field>
        <div className="mt-auto flex gap-2 pt-4">
          <Button look="strong" type="submit" disabled={release.isPending}>
            Release
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            Leave it a draft
          </Button>
        </div>
      </form>
    </Panel>
  );
}
