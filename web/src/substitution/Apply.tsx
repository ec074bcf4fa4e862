import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { money, quantity, signed } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { PartChoice } from "../pieces/PartChoice";
import type { Table } from "./table";

type Sheet = Schemas["ExchangedSheet"];

/** What a table would exchange on the sheets of some products, and then does. */
export function Apply({ table }: { table: Table }) {
  const [products, setProducts] = useState<string[]>([]);
  const [left, setLeft] = useState<Set<number>>(new Set());
  const [reason, setReason] = useState("");
  const say = useSay();
  const untrue = useUntrue();
  const found = useQuery({
    queryKey: ["substitution", "preview", table.id, table.version, products],
    queryFn: () =>
      answer(
        client.POST("/api/substitution/{table_id}/preview", {
          params: { path: { table_id: table.id } },
          body: { products },
        }),
      ),
    enabled: products.length > 0,
    staleTime: 0,
    retry: false,
  });
  const sheets = products.length ? (found.data?.sheets ?? []) : [];
  const chosen = sheets.filter((s) => !left.has(s.sheet) && s.lines.every((x) => !x.stops));
  const apply = useMutation<Schemas["SubstitutedOut"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/substitution/{table_id}/apply", {
          params: { path: { table_id: table.id } },
          body: { sheets: Object.fromEntries(chosen.map((s) => [s.sheet, s.version])), reason },
        }),
      ),
    onSuccess: (done) => {
      untrue("everything");
      setReason("");
      say(`Exchanged ${done.lines} ${done.lines === 1 ? "line" : "lines"}, in drafts.`);
    },
  });
  const turn = (key: number) => {
    const next = new Set(left);
    if (!next.delete(key)) next.add(key);
    setLeft(next);
  };
  return (
    <section aria-label="Apply it" className="pt-5">
      <div className="flex flex-wrap items-center gap-3 border-b border-ink pb-2">
        <h2 className="font-semibold">Apply it to</h2>
        {products.map((number) => (
          <span key={number} className="flex h-8 items-center gap-1 border border-hair-2 bg-paper pl-2">
            <span className="pn">{number}</span>
            <button
              type="button"
              aria-label={`Take ${number} out`}
              className="h-full min-w-6 px-1.5 hover:text-bad"
              onClick={() => setProducts(products.filter((p) => p !== number))}
            >
              ×
            </button>
          </span>
        ))}
        <PartChoice
          label="A product"
          value=""
          onKeep={(number) => number && !products.includes(number) && setProducts([...products, number])}
        />
        <span className="text-ink-2">and all that is made below it, drafts first</span>
      </div>
      {found.error && products.length > 0 && (
        <p role="alert" className="pt-2 text-bad">
          {found.error.message}
        </p>
      )}
      {found.data && products.length > 0 && sheets.length === 0 && (
        <p className="py-2 text-ink-2">The table names nothing on these sheets.</p>
      )}
      {sheets.map((sheet) => (
        <OneSheet key={sheet.sheet} sheet={sheet} left={left.has(sheet.sheet)} onTurn={() => turn(sheet.sheet)} />
      ))}
      {sheets.length > 0 && (
        <form
          className="flex flex-wrap items-center gap-2 pt-2"
          onSubmit={(event) => {
            event.preventDefault();
            apply.mutate();
          }}
        >
          <input
            className="field !w-[320px]"
            aria-label="Why it is exchanged"
            placeholder="why it is exchanged"
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button
            needs="sheets"
            look="strong"
            type="submit"
            disabled={chosen.length === 0 || !reason.trim() || apply.isPending}
          >
            Exchange on {chosen.length} {chosen.length === 1 ? "sheet" : "sheets"}
          </Button>
          <span className="text-ink-2">released sheets change through a draft</span>
          {apply.error && (
            <span role="alert" className="text-bad">
              {apply.error.problems[0]?.message ?? apply.error.message}
            </span>
          )}
        </form>
      )}
      {found.data && products.length > 0 && found.data.none.length > 0 && (
        <p className="pt-3 text-ink-2">
          No entry for{" "}
          {found.data.none.slice(0, 12).map((row, at) => (
            <span key={row.part} title={`${row.description}, ${row.lines} ${row.lines === 1 ? "line" : "lines"}`}>
              {at > 0 && ", "}
              <span className="pn">{row.part}</span>
            </span>
          ))}
          {found.data.none.length > 12 && ` and ${found.data.none.length - 12} more`}.
        </p>
      )}
    </section>
  );
}

function OneSheet({ sheet, left, onTurn }: { sheet: Sheet; left: boolean; onTurn: () => void }) {
  const stops = sheet.lines.some((x) => x.stops);
  const effect = sheet.before === null || sheet.after === null ? null : sheet.after - sheet.before;
  return (
    <div className={`border-b border-hair py-1.5 ${left || stops ? "text-ink-3" : ""}`}>
      <label className="flex min-h-6 items-center gap-2">
        <input type="checkbox" checked={!left && !stops} disabled={stops} onChange={onTurn} />
        <b className="pn">{sheet.part}</b> {sheet.description}
        <span className="text-ink-2">
          {sheet.revision}, {sheet.status}
        </span>
        <span className="ml-auto">
          {effect === null ? (
            "cost not known"
          ) : (
            <>
              {money(sheet.before)} → {money(sheet.after)}{" "}
              <b className={effect > 0 ? "text-brass" : "text-blue"}>{signed(effect)}</b>
            </>
          )}
        </span>
      </label>
      <ul className="pl-6">
        {sheet.lines.map((x, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines have their places
          <li key={at} className="flex flex-wrap gap-x-2">
            <span className="w-[34px] text-right text-ink-3">{x.item ?? ""}</span>
            {quantity(x.quantity)} {x.unit} <span className="pn">{x.old}</span>
            <span className="text-ink-2">{x.old_description}</span> →{" "}
            <b>
              {quantity(x.new_quantity)} {x.new_unit} <span className="pn">{x.new}</span>
            </b>
            <span className="text-ink-2">{x.new_description}</span>
            {x.stops && <span className="text-bad">{x.stops}</span>}
          </li>
        ))}
      </ul>
    </div>
  );
}
