import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import { answer, client, type Refusal, type Schemas, type SheetHead } from "../lib/api";
import { money, typed } from "../lib/number";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { PartChoice } from "../pieces/PartChoice";

type Row = Schemas["ReplacementRow"];

/** One part is exchanged for another across sheets; the effect on every cost is seen before. */
export function ReplaceScreen() {
  const [params, setParams] = useSearchParams();
  const [left, setLeft] = useState<Set<number>>(new Set());
  const [reason, setReason] = useState("");
  const [done, setDone] = useState<SheetHead[] | null>(null);
  const may = useMay("sheets");
  const say = useSay();
  const untrue = useUntrue();
  const old = params.get("old") ?? "";
  const fresh = params.get("new") ?? "";
  const [goes, comes] = [params.get("goes") ?? "1", params.get("comes") ?? "1"];
  const set = (name: string, value: string) => {
    setDone(null);
    setLeft(new Set());
    setParams(
      () => {
        const next = addressNow();
        value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  };
  const found = useQuery({
    queryKey: ["sheets", "replacement", old, fresh, goes, comes],
    queryFn: () =>
      answer(client.GET("/api/sheets/replacement", { params: { query: { old, new: fresh, goes, comes } } })),
    enabled: !!old && !!fresh,
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
  });
  const rows = old && fresh && !found.error ? (found.data?.rows ?? []) : [];
  const chosen = rows.filter((row) => !row.stops && !left.has(row.sheet));
  const exchange = useMutation<SheetHead[], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/sheets/replacement", {
          body: {
            old,
            new: fresh,
            goes,
            comes,
            reason,
            sheets: Object.fromEntries(chosen.map((row) => [row.sheet, row.version])),
          },
        }),
      ),
    onSuccess: (drafts) => {
      say(`Exchanged ${old} for ${fresh} on ${drafts.length} ${drafts.length === 1 ? "sheet" : "sheets"}.`);
      setDone(drafts);
      setReason("");
      untrue("everything");
    },
  });
  const effect = (row: Row) => (row.before === null || row.after === null ? null : row.after - row.before);
  return (
    <div className="h-full overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex flex-wrap items-center gap-3 pb-3">
        <h1 className="mr-3 text-[20px] font-semibold">Exchange a part</h1>
        <PartChoice label="Part that goes" value={old} onKeep={(number) => set("old", number)} />
        <span className="text-ink-2">for</span>
        <PartChoice label="Part that comes" value={fresh} onKeep={(number) => set("new", number)} />
        <span className="ml-3 flex items-baseline gap-1.5 text-ink-2" title="for so many that go, so many come">
          {(
            [
              ["goes", goes, "So many go", "for every"],
              ["comes", comes, "So many come", "that go,"],
            ] as const
          ).map(([name, value, label, before]) => (
            <span key={`${name} ${value}`} className="flex items-baseline gap-1.5">
              {before}
              <input
                className="field !w-14 text-right"
                aria-label={label}
                defaultValue={value}
                onBlur={(event) => event.target.value !== value && set(name, typed(event.target.value))}
                onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
              />
            </span>
          ))}
          come
        </span>
      </div>
      {found.error && (
        <p role="alert" className="pb-2 text-bad">
          {found.error.message}
        </p>
      )}
      {done && (
        <p className="pb-3">
          The new part stands on{" "}
          {done.map((sheet, i) => (
            <span key={sheet.id}>
              {i > 0 && ", "}
              <Link
                className="text-blue hover:underline"
                to={`/sheets/${encodeURIComponent(sheet.part)}?sheet=${sheet.id}`}
              >
                <span className="pn">{sheet.part}</span> revision {sheet.revision}, {sheet.status}
              </Link>
            </span>
          ))}
          . Release each draft when it is to come into force.
        </p>
      )}
      {old && fresh && found.data && !found.error && rows.length === 0 && (
        <p className="text-ink-2">No draft and no released sheet takes {old}.</p>
      )}
      {rows.length > 0 && (
        <>
          <table className="w-full border-t border-ink bg-paper">
            <thead>
              <tr className="h-7 border-b border-hair-2 text-left text-[12px] text-ink-2">
                <th className="px-3 font-normal">
                  <span className="sr-only">Chosen</span>
                </th>
                <th className="font-normal">Sheet</th>
                <th className="font-normal">Description</th>
                <th className="font-normal">Items</th>
                <th className="font-normal">What happens</th>
                <th className="px-2 text-right font-normal">Unit cost, {found.data?.currency}</th>
                <th className="px-2 text-right font-normal">Then</th>
                <th className="px-3 text-right font-normal">Effect</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.sheet} className="h-8 border-b border-hair">
                  <td className="px-3">
                    <input
                      type="checkbox"
                      aria-label={`${row.part} ${row.revision}`}
                      disabled={!!row.stops || !may}
                      checked={!row.stops && !left.has(row.sheet)}
                      onChange={() =>
                        setLeft((before) => {
                          const next = new Set(before);
                          next.has(row.sheet) ? next.delete(row.sheet) : next.add(row.sheet);
                          return next;
                        })
                      }
                    />
                  </td>
                  <td>
                    <Link
                      className="text-blue hover:underline"
                      to={`/sheets/${encodeURIComponent(row.part)}?sheet=${row.sheet}`}
                    >
                      <span className="pn">{row.part}</span> {row.revision}
                    </Link>
                  </td>
                  <td className="max-w-[280px] truncate">{row.description}</td>
                  <td className="text-ink-2">{row.items.join(", ")}</td>
                  <td className={row.stops ? "font-semibold text-bad" : "text-ink-2"}>
                    {row.stops || (row.status === "draft" ? "the draft is changed" : "a new revision is opened")}
                  </td>
                  <td className="px-2 text-right">{row.before === null ? "" : money(row.before)}</td>
                  <td className="px-2 text-right">{row.after === null ? "" : money(row.after)}</td>
                  <td className="px-3 text-right font-semibold">
                    {effect(row) === null ? "" : `${effect(row)! > 0 ? "+" : ""}${money(effect(row))}`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {!may ? (
            <Button needs="sheets" className="mt-3 self-start">
              Exchange
            </Button>
          ) : (
            <form
              className="flex items-center gap-3 pt-3"
              onSubmit={(event) => {
                event.preventDefault();
                exchange.mutate();
              }}
            >
              <input
                className="field max-w-[420px]"
                aria-label="Reason"
                placeholder="why it is exchanged"
                value={reason}
                onChange={(event) => setReason(event.target.value)}
              />
              <Button look="strong" type="submit" disabled={chosen.length === 0 || exchange.isPending}>
                Exchange on {chosen.length} {chosen.length === 1 ? "sheet" : "sheets"}
              </Button>
              <span className="text-ink-2">all of them, or none</span>
            </form>
          )}
          {exchange.error && (
            <p role="alert" className="pt-2 text-bad">
              {exchange.error.message}
            </p>
          )}
        </>
      )}
    </div>
  );
}
