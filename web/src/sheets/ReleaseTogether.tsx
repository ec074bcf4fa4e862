import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type SheetHead } from "../lib/api";
import { day, today } from "../lib/number";
import { useUntrue } from "../lib/untrue";

/** Drafts that belong together come into force on one day, all of them or none. */
export function ReleaseTogether({ onClose }: { onClose: () => void }) {
  const [chosen, setChosen] = useState<Map<number, number>>(new Map());
  const [reason, setReason] = useState("");
  const [first, setFirst] = useState(today());
  const say = useSay();
  const untrue = useUntrue();
  const query = { search: "", status: "draft", person: "", part_class: "" };
  const drafts = useQuery({
    queryKey: ["sheets", "list", query],
    queryFn: () => answer(client.GET("/api/sheets/list", { params: { query } })),
    staleTime: 0,
  });
  const rows = drafts.data?.items ?? [];
  const release = useMutation<SheetHead[], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/sheets/release", {
          body: { sheets: Object.fromEntries(chosen), first_day: first, reason },
        }),
      ),
    onSuccess: async (released) => {
      await untrue("everything");
      say(`Released ${released.length} ${released.length === 1 ? "sheet" : "sheets"}. They are locked now.`);
      onClose();
    },
  });
  const turn = (id: number, version: number) =>
    setChosen((old) => {
      const next = new Map(old);
      next.has(id) ? next.delete(id) : next.set(id, version);
      return next;
    });
  const wrong = (field: string) => release.error?.of(field);
  return (
    <Panel
      title="Release drafts together"
      note="All of them or none. What one takes of another counts as released."
      open
      onClose={onClose}
    >
      <form
        className="mt-3 flex min-h-0 flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          release.mutate();
        }}
      >
        <ul className="min-h-0 flex-1 overflow-y-auto border-t border-ink" aria-label="Drafts">
          {rows.map((sheet) => (
            <li key={sheet.id} className="border-b border-hair">
              <label className="flex min-h-8 items-baseline gap-2 py-1">
                <input
                  type="checkbox"
                  checked={chosen.has(sheet.id)}
                  onChange={() => turn(sheet.id, sheet.version)}
                  aria-label={`${sheet.part} ${sheet.alternate} revision ${sheet.revision}`}
                />
                <span className="pn">{sheet.part}</span>
                <span className="whitespace-nowrap text-ink-2">
                  {sheet.alternate}, revision {sheet.revision}
                </span>
                <span className="ml-auto whitespace-nowrap text-ink-3">
                  {sheet.changed_by} {day(sheet.changed_at)}
                </span>
              </label>
            </li>
          ))}
          {drafts.data && rows.length === 0 && <li className="py-2 text-ink-2">There is no draft.</li>}
        </ul>
        {release.error && (
          <div role="alert" className="max-h-[220px] overflow-y-auto text-bad">
            <ul className="list-disc pl-4">
              {release.error.problems
                .filter((p) => p.place !== "reason")
                .map((p) => (
                  <li key={`${p.place}${p.message}`}>{p.message}</li>
                ))}
              {release.error.problems.length === 0 && <li>{release.error.message}</li>}
            </ul>
          </div>
        )}
        <Field label="Reason" error={wrong("reason")} hint="kept in the history of each">
          {(p) => <input {...p} className="field" value={reason} onChange={(event) => setReason(event.target.value)} />}
        </Field>
        <Field label="In force from">
          {(p) => <DayField {...p} placeholder="the start" value={first} onKeep={setFirst} />}
        </Field>
        <div className="flex gap-2">
          <Button look="strong" type="submit" disabled={chosen.size === 0 || release.isPending}>
            Release {chosen.size} {chosen.size === 1 ? "draft" : "drafts"}
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            Leave them drafts
          </Button>
        </div>
      </form>
    </Panel>
  );
}
