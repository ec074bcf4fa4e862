import { useMutation } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Button } from "../../kit/Button";
import { Panel } from "../../kit/Panel";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useUntrue } from "../../lib/untrue";

type Renumbered = Schemas["Renumbered"];

/** Old and new part numbers side by side, looked at before any part has another. */
export function Renumber({
  note,
  rows,
  error,
  children,
  onClose,
}: {
  note: string;
  rows: Renumbered[] | undefined;
  error: Error | null;
  /** What the numbers are made from, above the list. */
  children?: ReactNode;
  onClose: (saved: boolean) => void;
}) {
  const say = useSay();
  const untrue = useUntrue();
  const moving = (rows ?? []).filter((row) => !row.kept);
  const save = useMutation<Schemas["Count"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/parts/renumber", {
          body: { changes: moving.map(({ old, new: next, version }) => ({ old, new: next, version })) },
        }),
      ),
    onSuccess: ({ count }) => {
      say(`${count} ${count === 1 ? "part has" : "parts have"} new numbers; the old ones stand in the descriptions.`);
      untrue("part");
      onClose(true);
    },
  });
  return (
    <Panel title="New part numbers" note={note} open onClose={() => onClose(false)}>
      <div className="mt-3 flex min-h-0 flex-1 flex-col gap-2">
        {children}
        {(error ?? save.error) && (
          <p role="alert" className="text-bad">
            {(error ?? save.error)!.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button look="strong" disabled={moving.length === 0 || save.isPending} onClick={() => save.mutate()}>
            {moving.length === 0 ? "No part gets a new number" : `Renumber ${moving.length}`}
          </Button>
          <Button onClick={() => onClose(false)}>Leave them</Button>
        </div>
        {rows && (
          <div
            role="region"
            tabIndex={0}
            aria-label="Old and new numbers"
            className="min-h-0 flex-1 overflow-y-auto border-t border-ink"
          >
            <table className="w-full table-fixed">
              <thead>
                <tr className="h-7 border-b border-hair-2 text-left text-[12px] text-ink-2">
                  <th className="w-[46%] font-normal">Now</th>
                  <th className="font-normal">Then</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <tr key={row.old} className="border-b border-hair align-top">
                    <td className="pn truncate py-1 pr-2">{row.old}</td>
                    <td className="py-1">
                      {row.kept ? (
                        <span className="text-[12px] text-ink-2">keeps it: {row.kept}</span>
                      ) : (
                        <>
                          <span className="pn">{row.new}</span>
                          <span className="block truncate text-[12px] text-ink-3">{row.description}</span>
                        </>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
      </div>
    </Panel>
  );
}
