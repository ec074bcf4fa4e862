import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../kit/Button";
import { Empty } from "../../kit/Empty";
import { Panel } from "../../kit/Panel";
import { answer, client } from "../../lib/api";
import { typed } from "../../lib/number";
import type { CopiedLine } from "../../model/lines";

/** Things on no drawing: glue, grease, paint, labels. An amount beside one puts it on the sheet. */
export function LibraryPanel({ onKeep, onClose }: { onKeep: (values: CopiedLine[]) => void; onClose: () => void }) {
  const [amounts, setAmounts] = useState<Record<string, string>>({});
  const [text, setText] = useState("");
  const navigate = useNavigate();
  const things = useQuery({
    queryKey: ["parts", "unmodelled", text],
    queryFn: () =>
      answer(client.GET("/api/parts", { params: { query: { unmodelled: true, search: text, limit: 500 } } })),
    placeholderData: (old) => old,
  });
  const items = things.data?.items ?? [];
  const wrong = (value: string) => !(Number(typed(value)) > 0);
  const filled = Object.entries(amounts).filter(([, value]) => value.trim());
  const bad = filled.some(([, value]) => wrong(value));
  return (
    <Panel
      title="On no drawing"
      note="Kept once, used in any sheet: an amount for one of this part."
      open
      onClose={onClose}
    >
      <form
        className="mt-3 flex min-h-0 flex-1 flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (filled.length === 0 || bad) return;
          onKeep(filled.map(([part, value]) => ({ part, quantity: typed(value) })));
          onClose();
        }}
      >
        <input
          type="search"
          className="field"
          aria-label="Find a thing"
          placeholder="glue, label, 7702 …"
          value={text}
          onChange={(event) => setText(event.target.value)}
          autoFocus
        />
        {things.data && items.length === 0 && !text ? (
          <Empty
            title="Nothing here yet"
            action={<Button onClick={() => navigate("/parts?new=1")}>Make a part of it</Button>}
          >
            Any bought part that is marked “on no drawing” stands here.
          </Empty>
        ) : (
          <ul className="min-h-0 flex-1 overflow-y-auto border-t border-ink">
            {items.map((thing) => (
              <li key={thing.number} className="flex items-center gap-2 border-b border-hair py-1">
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{thing.description || thing.number}</span>
                  <span className="block truncate text-[12px] text-ink-3">
                    <span className="pn">{thing.number}</span>
                    {thing.supplier ? ` · ${thing.supplier} ${thing.supplier_number}` : ""}
                  </span>
                </span>
                <input
                  className="field !min-h-[28px] !w-[84px] text-right"
                  inputMode="decimal"
                  aria-label={`Amount of ${thing.number}`}
                  aria-invalid={!!amounts[thing.number]?.trim() && wrong(amounts[thing.number]!)}
                  value={amounts[thing.number] ?? ""}
                  onChange={(event) => setAmounts({ ...amounts, [thing.number]: event.target.value })}
                />
                <span className="w-8 text-ink-3">{thing.unit}</span>
              </li>
            ))}
          </ul>
        )}
        <div className="flex gap-2">
          <Button look="strong" type="submit" disabled={filled.length === 0 || bad}>
            {filled.length === 0 ? "Put on the sheet" : `Put ${filled.length} on the sheet`}
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Panel>
  );
}
