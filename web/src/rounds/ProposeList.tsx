import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button } from "../kit/Button";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import type { Round } from "../pieces/useRounds";
import { useProposed } from "./proposing";

export function List({ round, onClose }: { round: Round; onClose: () => void }) {
  const [text, setText] = useState("");
  const input = useRef<HTMLInputElement>(null);
  const done = useProposed(round, onClose);
  const take = useMutation<Schemas["Proposed"], Refusal, string | File>({
    mutationFn: (from) =>
      typeof from === "string"
        ? answer(
            client.POST("/api/rounds/{round_id}/proposals/list", {
              params: { path: { round_id: round.id } },
              body: { text: from },
            }),
          )
        : sendFile<Schemas["Proposed"]>(`/api/rounds/${round.id}/proposals/file`, from),
    onSuccess: done,
  });
  return (
    <div className="mt-3 flex flex-col gap-3">
      <p className="text-ink-2">
        The first row names the columns: Part or Work center, then inputs by their names (Unit cost, Costing lot, Labor
        rate …), and Reason where there is one.
      </p>
      <textarea
        className="field pn !h-[150px] text-[12px]"
        aria-label="Rows as a spreadsheet copies them"
        placeholder={"Part\tUnit cost\tReason\nBAR-AL65\t44.82\tquoted for the year"}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {take.error && (
        <ul role="alert" className="text-bad">
          {(take.error.problems.length ? take.error.problems : [{ place: "", message: take.error.message }])
            .slice(0, 12)
            .map((p) => (
              <li key={p.message}>{p.message}</li>
            ))}
        </ul>
      )}
      <div className="flex gap-2">
        <Button look="strong" disabled={!text.trim() || take.isPending} onClick={() => take.mutate(text)}>
          Propose these rows
        </Button>
        <input
          ref={input}
          type="file"
          accept=".csv,.xlsx,.ods"
          className="hidden"
          aria-label="A list of proposed inputs as a file"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) take.mutate(file);
          }}
        />
        <Button onClick={() => input.current?.click()}>Out of a file …</Button>
      </div>
    </div>
  );
}
