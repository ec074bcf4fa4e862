import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Field } from "../../kit/Field";
import { answer, client } from "../../lib/api";
import { Renumber } from "../../pieces/parts/Renumber";

/** The parts below a sheet get numbers by their position: 1, 1.1, 1.1.2 behind a prefix. */
export function PartNumbersPanel({ sheet, part, onClose }: { sheet: number; part: string; onClose: () => void }) {
  const [prefix, setPrefix] = useState(`${part}-`);
  const [madeOnly, setMadeOnly] = useState(true);
  const asked = useDeferredValue(prefix.trim());
  const rows = useQuery({
    queryKey: ["numbers-by-position", sheet, asked, madeOnly],
    queryFn: () =>
      answer(
        client.GET("/api/parts/numbers-by-position", {
          params: { query: { sheet, prefix: asked, made_only: madeOnly } },
        }),
      ),
    placeholderData: (old) => old,
    staleTime: 0,
  });
  return (
    <Renumber
      note="By position in the tree. The old number stays in the description; what released papers name keeps its own."
      rows={rows.data}
      error={rows.error}
      onClose={onClose}
    >
      <div className="grid grid-cols-2 items-end gap-3">
        <Field label="Before each number">
          {(p) => (
            <input {...p} className="field pn" autoFocus value={prefix} onChange={(e) => setPrefix(e.target.value)} />
          )}
        </Field>
        <label className="flex items-center gap-2 pb-1.5">
          <input type="checkbox" checked={madeOnly} onChange={() => setMadeOnly(!madeOnly)} />
          made parts only
        </label>
      </div>
    </Renumber>
  );
}
