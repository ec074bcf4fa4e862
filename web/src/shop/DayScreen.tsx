import { useMutation, useQuery } from "@tanstack/react-query";
import { type ClipboardEvent, useRef, useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { quantity, typed, typedMinutes } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { DayTakes } from "./DayTakes";

type Here = Schemas["HereOut"];

/** What is typed of a row, in the order of its fields. */
const FIELDS = ["good", "scrapped", "setup_minutes", "run_minutes", "reason", "done_by"] as const;
type Field = (typeof FIELDS)[number];
type Typed = Partial<Record<Field, string>>;

const TITLES: Record<Field, string> = {
  good: "good",
  scrapped: "scrap",
  setup_minutes: "set-up, min",
  run_minutes: "run, min",
  reason: "why scrapped",
  done_by: "who",
};
const GRID =
  "grid grid-cols-[80px_90px_minmax(120px,1fr)_minmax(120px,1fr)_100px_76px_70px_64px_76px_76px_minmax(120px,1fr)_100px] items-center gap-x-1.5 px-2";
const keyOf = (row: { order: string; sequence: number }) => `${row.order} ${row.sequence}`;

/** Good and scrapped units as they are typed; all that are here where none are. */
function unitsOf(t: Typed | undefined, row: Here): string {
  const units = [t?.good, t?.scrapped].map((text) => Number(typed(text ?? "") || "0"));
  const sum = units.reduce((a, b) => a + b, 0);
  return Number.isFinite(sum) && sum > 0 ? String(Math.round(sum * 1e6) / 1e6) : row.here;
}

/** The end of the day: every operation at which something could be reported, in one table, typed or pasted, kept together. */
export function DayScreen() {
  const [rows, setRows] = useState<Record<string, Typed>>({});
  /** What was really taken, by row and component; and the rows that show it. */
  const [taken, setTaken] = useState<Record<string, Record<number, string>>>({});
  const [shown, setShown] = useState<Record<string, boolean>>({});
  const [unread, setUnread] = useState("");
  const key = useRef(crypto.randomUUID());
  const say = useSay();
  const untrue = useUntrue();
  const here = useQuery({
    queryKey: ["work-orders", "day"],
    queryFn: () => answer(client.GET("/api/shop/day")),
    staleTime: 0,
  });
  const listed = here.data ?? [];
  // What was taken without a unit is sent, too: the server says what is missing.
  const filled = listed.filter(
    (row) =>
      FIELDS.slice(0, 4).some((f) => rows[keyOf(row)]?.[f]?.trim()) ||
      Object.values(taken[keyOf(row)] ?? {}).some((text) => text.trim()),
  );
  const keep = useMutation<Schemas["Count"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/shop/day", {
          body: {
            key: key.current,
            rows: filled.map((row) => {
              const t = rows[keyOf(row)] ?? {};
              return {
                order: row.order,
                sequence: row.sequence,
                good: typed(t.good ?? "") || "0",
                scrapped: typed(t.scrapped ?? "") || "0",
                setup_minutes: typedMinutes(t.setup_minutes ?? "") || "0",
                run_minutes: typedMinutes(t.run_minutes ?? "") || "0",
                reason: t.reason ?? "",
                done_by: t.done_by ?? "",
                taken: Object.entries(taken[keyOf(row)] ?? {})
                  .filter(([, text]) => text.trim())
                  .map(([at, text]) => ({ row: Number(at), quantity: typed(text) })),
              };
            }),
          },
        }),
      ),
    onSuccess: (said) => {
      key.current = crypto.randomUUID();
      setRows({});
      setTaken({});
      untrue("work order");
      say(`Reported ${said.count} operations.`);
    },
  });
  const set = (row: Here, field: Field, text: string) =>
    setRows((old) => ({ ...old, [keyOf(row)]: { ...old[keyOf(row)], [field]: text } }));
  const propose = (row: Here) =>
    setRows((old) => ({
      ...old,
      [keyOf(row)]: {
        ...old[keyOf(row)],
        good: row.here,
        setup_minutes: Number(row.setup_minutes) ? row.setup_minutes : "",
        run_minutes: row.where.startsWith("outside") ? "" : row.run_minutes,
      },
    }));
  /** Rows out of a spreadsheet: order, operation, then the fields in their order. */
  const paste = (event: ClipboardEvent) => {
    const text = event.clipboardData.getData("text/plain");
    if (!text.includes("\t")) return;
    event.preventDefault();
    const next: Record<string, Typed> = {};
    const foreign: string[] = [];
    for (const line of text.split(/\r?\n/).filter((l) => l.trim())) {
      const [order = "", sequence = "", ...cells] = line.split("\t").map((c) => c.trim());
      const row = listed.find((r) => r.order === order.toUpperCase() && r.sequence === Number(sequence));
      if (row) next[keyOf(row)] = Object.fromEntries(FIELDS.map((f, at) => [f, cells[at] ?? ""]));
      else if (/\d/.test(order)) foreign.push(`${order} ${sequence}`);
    }
    setRows((old) => ({ ...old, ...next }));
    setUnread(foreign.length ? `Not here, and so not taken: ${foreign.slice(0, 8).join(", ")}` : "");
  };
  const problems = (keep.error?.problems ?? []).map((p) => p.message);
  return (
    <ListFrame
      title="End of the day"
      words="What was done at which operation, and what it took; rows of a spreadsheet can be pasted: order, operation, good, scrap, set-up, run, why, who."
      error={here.error?.message}
      beside={
        <Button
          className="ml-auto"
          needs="shop reports"
          look="strong"
          disabled={filled.length === 0 || keep.isPending}
          onClick={() => keep.mutate()}
        >
          Report {filled.length || "no"} {filled.length === 1 ? "row" : "rows"}
        </Button>
      }
    >
      {keep.error && (
        <ul role="alert" className="pb-2 text-bad">
          {(problems.length ? problems : [keep.error.message]).slice(0, 8).map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      )}
      {unread && (
        <p role="alert" className="pb-2 text-bad">
          {unread}
        </p>
      )}
      {here.data?.length === 0 ? (
        <Empty title="Nothing waits to be reported">Operations stand here once units have come to them.</Empty>
      ) : (
        <div
          role="table"
          aria-label="Operations to report"
          className="min-h-0 overflow-y-auto border-t border-ink bg-paper"
          onPaste={paste}
        >
          <div role="row" className={`${GRID} sticky top-0 h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2`}>
            {["order", "part", "what it is", "operation", "where", "here", ...FIELDS.map((f) => TITLES[f])].map(
              (title) => (
                <span key={title} role="columnheader">
                  {title}
                </span>
              ),
            )}
          </div>
          {listed.map((row) => (
            <div key={keyOf(row)} role="presentation" className="border-b border-hair">
              <div role="row" className={`${GRID} min-h-9`}>
                <span role="cell" className="pn">
                  {row.order}
                </span>
                <Link role="cell" className="pn text-blue hover:underline" to={`/part/${encodeURIComponent(row.part)}`}>
                  {row.part}
                </Link>
                <span role="cell" className="truncate text-ink-2" title={row.description}>
                  {row.description}
                </span>
                <span role="cell" className="truncate">
                  <button
                    type="button"
                    className="min-h-6 max-w-full truncate hover:underline"
                    aria-expanded={!!shown[keyOf(row)]}
                    title="what it takes"
                    onClick={() => setShown((old) => ({ ...old, [keyOf(row)]: !old[keyOf(row)] }))}
                  >
                    <span aria-hidden className="inline-block w-4 text-ink-3">
                      {shown[keyOf(row)] ? "–" : "+"}
                    </span>
                    {row.sequence || ""} {row.name || "Make"}
                  </button>
                </span>
                <span role="cell" className="truncate text-ink-2" title={row.where}>
                  {row.where}
                </span>
                <span role="cell">
                  <button
                    type="button"
                    className="min-h-6 text-blue hover:underline"
                    title="all of them, in the time they should take"
                    onClick={() => propose(row)}
                  >
                    {quantity(row.here)} {row.unit}
                  </button>
                </span>
                {FIELDS.map((field, at) => (
                  <span key={field} role="cell">
                    <input
                      className={`field !min-h-[28px] ${at < 4 ? "text-right" : ""}`}
                      aria-label={`${TITLES[field]} of ${row.order}, ${row.sequence}`}
                      value={rows[keyOf(row)]?.[field] ?? ""}
                      onChange={(event) => set(row, field, event.target.value)}
                    />
                  </span>
                ))}
              </div>
              {shown[keyOf(row)] && (
                <div role="row">
                  <div role="cell">
                    <DayTakes
                      order={row.order}
                      sequence={row.sequence}
                      units={unitsOf(rows[keyOf(row)], row)}
                      taken={taken[keyOf(row)] ?? {}}
                      onTaken={(at, text) =>
                        setTaken((old) => ({ ...old, [keyOf(row)]: { ...old[keyOf(row)], [at]: text } }))
                      }
                    />
                  </div>
                </div>
              )}
            </div>
          ))}
        </div>
      )}
    </ListFrame>
  );
}
