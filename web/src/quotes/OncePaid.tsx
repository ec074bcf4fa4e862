import { useState } from "react";
import { Button } from "../kit/Button";
import type { Schemas } from "../lib/api";
import { typed } from "../lib/number";
import { useMay } from "../lib/session";
import type { Quote } from "./states";

type Once = Schemas["OnceOut"];

/** What is paid once whatever the quantity: beside the price, or spread over it. */
export function OncePaid({
  quote,
  draft,
  onChange,
}: {
  quote: Quote;
  draft: boolean;
  onChange: (once: Once[]) => void;
}) {
  const [rows, setRows] = useState<Once[]>(quote.once);
  const may = useMay("buying") && draft;
  const set = (at: number, more: Partial<Once>) =>
    setRows((old) => old.map((row, index) => (index === at ? { ...row, ...more } : row)));
  const changed = JSON.stringify(rows) !== JSON.stringify(quote.once);
  return (
    <section aria-label="Paid once">
      <h2 className="border-b border-ink pb-1 font-semibold">Paid once</h2>
      {rows.map((row, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: it is its place until it is kept
        <div key={at} className="grid grid-cols-[1fr_100px_auto_auto] items-center gap-2 pt-1.5">
          <input
            className="field"
            aria-label={`What is paid once, ${at + 1}`}
            placeholder="tooling, first set-up"
            disabled={!may}
            value={row.words}
            onChange={(event) => set(at, { words: event.target.value })}
          />
          <input
            className="field text-right"
            aria-label={`Amount paid once, ${at + 1}`}
            inputMode="decimal"
            disabled={!may}
            value={row.amount}
            onChange={(event) => set(at, { amount: event.target.value })}
          />
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              disabled={!may}
              checked={row.spread}
              onChange={(event) => set(at, { spread: event.target.checked })}
            />
            in the price
          </label>
          <Button
            look="quiet"
            aria-label={`take away what is paid once, ${at + 1}`}
            disabled={!may}
            onClick={() => setRows((old) => old.filter((_, index) => index !== at))}
          >
            take away
          </Button>
        </div>
      ))}
      {rows.length === 0 && <p className="pt-1.5 text-ink-3">Nothing: all of it is in the costs above.</p>}
      <div className="flex gap-2 pt-2">
        <Button
          needs="buying"
          disabled={!draft}
          onClick={() => setRows((old) => [...old, { words: "", amount: "", spread: false }])}
        >
          Another one
        </Button>
        {changed && (
          <Button
            needs="buying"
            look="strong"
            onClick={() => onChange(rows.map((row) => ({ ...row, amount: typed(row.amount) })))}
          >
            Keep them
          </Button>
        )}
      </div>
    </section>
  );
}
