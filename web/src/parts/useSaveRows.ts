import { useMutation } from "@tanstack/react-query";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

const count = (n: number) => `${n} ${n === 1 ? "part" : "parts"}`;

/** Saves rows of parts, all of them or none, and says what it wrote. */
export function useSaveRows(reason: string, onSaved: () => void) {
  const say = useSay();
  const untrue = useUntrue();
  return useMutation<Schemas["RowsSaved"], Refusal, Schemas["RowIn"][]>({
    mutationFn: (rows) => answer(client.POST("/api/parts/rows", { body: { rows, reason } })),
    onSuccess: ({ made, changed }) => {
      say(`Made ${count(made)}, changed ${count(changed)}.`);
      untrue("part");
      onSaved();
    },
  });
}

/** The rows of a preview as they are sent to be saved: each with the version that was looked at. */
export function rowsOf(preview: Schemas["RowPreview"][]): Schemas["RowIn"][] {
  return preview
    .filter((row) => !row.known || row.changes.length > 0)
    .map(({ number, fields, version }) => ({ number, fields: fields as Schemas["RowIn"]["fields"], version }));
}
