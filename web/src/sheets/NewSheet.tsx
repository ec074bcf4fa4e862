import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type SheetHead } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { PartChoice } from "../pieces/PartChoice";

/** A sheet for a made part: its open draft, made where there is none. */
export function NewSheet({ onClose }: { onClose: () => void }) {
  const [part, setPart] = useState("");
  const navigate = useNavigate();
  const untrue = useUntrue();
  const open = useMutation<SheetHead, Refusal, string>({
    mutationFn: (number) =>
      answer(client.POST("/api/sheets", { body: { part: number, alternate: "A", reference: "", reason: "" } })),
    onSuccess: (sheet) => {
      untrue("sheet");
      navigate(`/sheets/${encodeURIComponent(sheet.part)}?sheet=${sheet.id}`);
    },
  });
  return (
    <Panel
      title="New sheet"
      note="For a made part or a phantom. Where its sheet is released, the draft starts as a copy."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          open.mutate(part);
        }}
      >
        <PartChoice label="The part it builds" value={part} onKeep={setPart} />
        <p>
          <Button look="quiet" onClick={() => navigate("/parts?new=1&kind=made")}>
            It is a new part
          </Button>
        </p>
        {open.error && (
          <p role="alert" className="text-bad">
            {open.error.message}
          </p>
        )}
        <div className="mt-auto flex gap-2 pt-4">
          <Button needs="sheets" look="strong" type="submit" disabled={!part || open.isPending}>
            Open its draft
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            Leave
          </Button>
        </div>
      </form>
    </Panel>
  );
}
