import { type ReactNode, useEffect, useState } from "react";
import { DayField } from "../kit/DayField";
import { Word } from "../kit/Word";
import type { Schemas } from "../lib/api";
import type { Basis } from "../lib/basis";
import { typed } from "../lib/number";
import { useSeesCosts } from "../lib/session";
import { PriceOptions } from "./PriceOptions";
import { useRounds } from "./useRounds";

/** What the figures on screen hold for. Everything in it can be changed here, and everything recomputes. */
export function BasisBar({
  unit,
  currency,
  options: known,
  asOf,
  day = true,
  quantity: asksQuantity = true,
  prices = false,
  basis,
  onChange,
}: {
  /** The stock unit of the product. */
  unit: string;
  currency: string;
  /** The options that stand on its sheets. */
  options: Schemas["OptionOut"][];
  /** The day that the figures hold for when the basis names none. */
  asOf: string;
  /** Whether the day is chosen here. */
  day?: boolean;
  /** Whether the quantity is chosen here. */
  quantity?: boolean;
  /** Whether it is chosen here at which prices. */
  prices?: boolean;
  basis: Basis;
  onChange: (change: Partial<Basis>) => void;
}) {
  const [quantity, setQuantity] = useState(basis.quantity);
  useEffect(() => setQuantity(basis.quantity), [basis.quantity]);
  const costs = useSeesCosts();
  const rounds = useRounds(prices && costs).filter((r) => r.status === "open" || `round:${r.id}` === basis.prices);
  const chosen = new Set(basis.options.split(",").filter(Boolean));
  // An option chosen in the address stays visible even where no line carries it.
  const options = [
    ...known,
    ...[...chosen].filter((c) => !known.some((o) => o.code === c)).map((code) => ({ code, name: "", not_with: [] })),
  ];
  const keep = () => onChange({ quantity: typed(quantity) });
  return (
    <section
      aria-label="What these figures hold for"
      className="flex min-h-[46px] shrink-0 flex-wrap items-center border-b border-blue-line bg-blue-tint px-4 py-1.5"
    >
      <span className="mr-3 font-semibold text-blue">
        <Word of="basis">These figures hold for</Word>
      </span>
      {asksQuantity && (
        <Piece>
          <input
            aria-label="Quantity of the job; empty for costing lots"
            className="field !min-h-[26px] !w-[88px] text-right font-semibold"
            inputMode="decimal"
            placeholder="costing"
            value={quantity}
            onChange={(e) => setQuantity(e.target.value)}
            onBlur={keep}
            onKeyDown={(e) => {
              if (e.key === "Enter") keep();
              if (e.key === "Escape") setQuantity(basis.quantity);
            }}
          />
          <span className="text-ink-2">{basis.quantity ? `${unit}, one job` : "lots; a number makes it a job"}</span>
        </Piece>
      )}
      {day && (
        <Piece>
          <span className="text-ink-2">on</span>
          <DayField
            aria-label="Day"
            className="field !min-h-[26px] !w-[112px] font-semibold"
            value={basis.day || asOf}
            onKeep={(iso) => onChange({ day: iso })}
          />
        </Piece>
      )}
      {options.length > 0 && (
        <Piece>
          <span className="text-ink-2">with</span>
          {options.map((option) => {
            const on = chosen.has(option.code);
            return (
              <Chip
                key={option.code}
                on={on}
                title={option.name + (option.not_with.length ? ` (not with ${option.not_with.join(", ")})` : "")}
                onClick={() => {
                  if (on) chosen.delete(option.code);
                  else {
                    chosen.add(option.code);
                    // Choosing one lets go of what cannot be chosen with it.
                    for (const other of option.not_with) chosen.delete(other);
                  }
                  onChange({ options: [...chosen].sort().join(",") });
                }}
              >
                {option.code}
              </Chip>
            );
          })}
        </Piece>
      )}
      <Piece>
        <Chip
          on={basis.drafts}
          title="Below this sheet, an open draft counts before a released revision"
          onClick={() => onChange({ drafts: !basis.drafts })}
        >
          drafts count
        </Chip>
      </Piece>
      {costs && (
        <Piece>
          <span className="text-ink-2">in</span> <b className="font-semibold">{currency}</b>
          {prices && (
            <>
              <span className="ml-1 text-ink-2">at</span>
              <select
                aria-label="Prices"
                className="field !min-h-[26px] !w-auto max-w-[190px] !py-0 font-semibold"
                value={basis.prices}
                onChange={(event) => onChange({ prices: event.target.value })}
              >
                <PriceOptions rounds={rounds} />
              </select>
            </>
          )}
        </Piece>
      )}
    </section>
  );
}

function Piece({ children }: { children: ReactNode }) {
  return <span className="flex h-7 items-center gap-1.5 border-l border-blue-line px-3">{children}</span>;
}

function Chip({
  on,
  title,
  onClick,
  children,
}: {
  on: boolean;
  title: string;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-pressed={on}
      title={title}
      onClick={onClick}
      className={`rounded-[3px] border px-2 leading-[22px] ${on ? "border-blue bg-blue text-paper" : "border-blue-line bg-paper hover:border-blue"}`}
    >
      {children}
    </button>
  );
}
