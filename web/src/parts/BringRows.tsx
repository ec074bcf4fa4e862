import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Button } from "../kit/Button";
import { Panel } from "../kit/Panel";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { PlannedRows } from "./PlannedRows";
import { rowsOf, useSaveRows } from "./useSaveRows";

/** Rows of parts pasted from a spreadsheet or out of a file: looked at first, then saved whole. */
export function BringRows({ pasted, onClose }: { pasted: string; onClose: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [text, setText] = useState(pasted);
  const read = useMutation<Schemas["RowsPreview"], Refusal, string | File>({
    mutationFn: (from) =>
      typeof from === "string"
        ? answer(client.POST("/api/parts/rows/pasted", { body: { text: from } }))
        : sendFile<Schemas["RowsPreview"]>("/api/parts/rows/file", from),
  });
  const save = useSaveRows("rows brought into the part list", onClose);
  const start = useRef(read.mutate);
  useEffect(() => {
    if (pasted) start.current(pasted);
  }, [pasted]);
  const rows = read.data?.rows ?? [];
  const good = rows.filter((row) => row.problems.length === 0);
  const toSave = rowsOf(good);
  const bad = rows.length - good.length;
  return (
    <Panel
      title="Rows for the part list"
      note="The first row names the columns, as they leave with “As a workbook”: Part number, Description, Unit cost …"
      open
      onClose={onClose}
    >
      <div className="mt-3 flex min-h-0 flex-1 flex-col gap-2">
        {!read.data && (
          <>
            <textarea
              className="field pn !h-[140px] text-[12px]"
              aria-label="Rows as a spreadsheet copies them"
              placeholder={"Part number\tDescription\tUnit cost\nSCR-00042\tScrew M4 x 12\t0.04"}
              value={text}
              onChange={(event) => setText(event.target.value)}
              autoFocus
            />
            <div className="flex gap-2">
              <Button look="strong" disabled={!text.trim() || read.isPending} onClick={() => read.mutate(text)}>
                {read.isPending ? "Reading …" : "Read these rows"}
              </Button>
              <input
                ref={input}
                type="file"
                accept=".csv,.xlsx,.ods"
                className="hidden"
                aria-label="A part list as a file"
                onChange={(event) => {
                  const file = event.target.files?.[0];
                  event.target.value = "";
                  if (file) read.mutate(file);
                }}
              />
              <Button onClick={() => input.current?.click()}>Out of a file …</Button>
            </div>
          </>
        )}
        {(read.error ?? save.error) && (
          <p role="alert" className="text-bad">
            {(read.error ?? save.error)!.message}
          </p>
        )}
        {read.data && (
          <>
            <p className="text-ink-2">
              {rows.length} rows, read as {read.data.columns.join(", ")}.{" "}
              {bad > 0 && <span className="text-bad">{bad} cannot be saved as they are and stay out.</span>}
            </p>
            <div className="flex gap-2">
              <Button
                look="strong"
                autoFocus
                disabled={toSave.length === 0 || save.isPending}
                onClick={() => save.mutate(toSave)}
              >
                {toSave.length === 0 ? "Nothing would change" : `Save ${toSave.length} of ${rows.length}`}
              </Button>
              <Button onClick={onClose}>Leave it</Button>
            </div>
            <PlannedRows rows={rows} />
          </>
        )}
      </div>
    </Panel>
  );
}
