import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { Apply } from "./Apply";
import { TableRows } from "./TableRows";

type Done = Schemas["SubstitutedOut"];

/** Tables from generic materials and hardware to real stock: kept by name, applied to the sheets of products, taken back. */
export function SubstitutionScreen() {
  const [chosen, setChosen] = useState<number | "new" | null>(null);
  const tables = useQuery({
    queryKey: ["substitution", "tables"],
    queryFn: () => answer(client.GET("/api/substitution")),
  });
  const at = chosen ?? tables.data?.[0]?.id ?? null;
  const table = tables.data?.find((t) => t.id === at);
  return (
    <ListFrame
      title="Substitution"
      words="Generic materials and hardware of a design, exchanged for real stock by a table."
      error={tables.error?.message}
      beside={
        <Button className="ml-auto" needs="sheets" look="strong" onClick={() => setChosen("new")}>
          New table
        </Button>
      }
    >
      <div className="min-h-0 overflow-y-auto">
        {tables.data?.length === 0 && at === null && (
          <Empty title="No table yet">
            A designer writes <i>board, 9 mm</i> or <i>screw, any M5</i>; the shop has a part for it. A table says
            which, and all sheets of a product are exchanged at once, looked at before, taken back in one step.
          </Empty>
        )}
        {tables.data && tables.data.length > 0 && (
          <nav aria-label="Tables" className="flex flex-wrap gap-2 pb-3">
            {tables.data.map((t) => (
              <button
                key={t.id}
                type="button"
                aria-current={t.id === at}
                className={`min-h-8 border px-3 ${t.id === at ? "border-2 border-blue bg-blue-tint" : "border-hair-2 bg-paper hover:border-blue"}`}
                onClick={() => setChosen(t.id)}
              >
                {t.name} <span className="text-ink-3">{t.rows.length}</span>
              </button>
            ))}
          </nav>
        )}
        {(table || at === "new") && (
          <TableRows
            key={table ? `${table.id} ${table.version}` : "new"}
            table={table}
            onKept={(t) => setChosen(t ? t.id : null)}
          />
        )}
        {table && <Apply key={`apply ${table.id}`} table={table} />}
        <DoneBefore />
      </div>
    </ListFrame>
  );
}

function DoneBefore() {
  const say = useSay();
  const untrue = useUntrue();
  const done = useQuery({
    queryKey: ["substitution", "done"],
    queryFn: () => answer(client.GET("/api/substitution/done")),
  });
  const back = useMutation<Done, Refusal, number>({
    mutationFn: (id) =>
      answer(client.POST("/api/substitution/done/{done_id}/back", { params: { path: { done_id: id } } })),
    onSuccess: () => {
      untrue("everything");
      say("Taken back: every line is what it was.");
    },
    onError: (error) => say(error.problems[0]?.message ?? error.message, { bad: true }),
  });
  if (!done.data?.length) return null;
  return (
    <section aria-label="What was exchanged" className="pt-6">
      <h2 className="border-b border-ink pb-1 font-semibold">What was exchanged</h2>
      <ul>
        {done.data.map((row) => (
          <li key={row.id} className="flex items-center gap-4 border-b border-hair py-1">
            <span className="w-[130px] text-ink-2">{dayAndTime(row.made_at)}</span>
            <span className="w-[90px] text-ink-2">{row.made_by}</span>
            <span className="w-[190px] truncate">{row.table}</span>
            <span className="min-w-0 flex-1 truncate">
              {row.lines} {row.lines === 1 ? "line" : "lines"} of <span className="pn">{row.parts.join(", ")}</span>{" "}
              <span className="text-ink-2">({row.reason})</span>
            </span>
            {row.undone_by ? (
              <span className="text-ink-3">taken back by {row.undone_by}</span>
            ) : (
              <Button
                needs="sheets"
                className="!min-h-[26px]"
                disabled={back.isPending}
                onClick={() => back.mutate(row.id)}
              >
                Take it back
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
