import { useState } from "react";
import { Bridge, moved } from "../kit/Bridge";
import type { Schemas } from "../lib/api";
import { ELEMENT_WORDS, ELEMENTS, elementColour } from "../lib/elements";
import { money, quantity } from "../lib/number";
import type { Order } from "./states";

type Said = Schemas["CameToOut"];

/** Expected against actual: by cause, by element; a cause opens to where it came from and what it was reckoned of. */
export function CameTo({ order, said }: { order: Order; said: Said }) {
  const [open, setOpen] = useState<string | null>(null);
  const causes = Object.entries(said.by_cause).map(([word, amount]) => ({ word, value: Number(amount) }));
  return (
    <section aria-label="What it came to" className="pt-5">
      <h2 className="pb-1 font-semibold">What it came to</h2>
      <p className="pb-2 text-ink-2">
        {quantity(said.good)} good units, expected at the cost of one of {quantity(order.quantity)}.
      </p>
      <div className="flex flex-wrap items-start gap-x-10 gap-y-4">
        <Bridge
          before={Number(said.expected_total)}
          after={Number(said.actual_total)}
          steps={causes.filter((c) => c.value !== 0)}
          beforeWord="expected"
          afterWord="actual"
          width={520}
          label={142}
        />
        <ByElement said={said} />
      </div>
      <ul className="mt-3 max-w-[960px] border-t border-hair-2" aria-label="Causes">
        {causes
          .filter((c) => c.value !== 0)
          .map((c) => (
            <li key={c.word} className="border-b border-hair">
              <button
                type="button"
                aria-expanded={open === c.word}
                className="flex min-h-8 w-full items-center gap-3 text-left hover:bg-sunk"
                onClick={() => setOpen(open === c.word ? null : c.word)}
              >
                <span className="w-4 text-ink-3">{open === c.word ? "−" : "+"}</span>
                <span className="w-[190px]">{c.word}</span>
                <b className={c.value > 0 ? "text-brass" : "text-blue"}>{moved(c.value)}</b>
              </button>
              {open === c.word && <Places said={said} cause={c.word} />}
            </li>
          ))}
      </ul>
    </section>
  );
}

function Places({ said, cause }: { said: Said; cause: string }) {
  return (
    <ul className="pb-2 pl-8">
      {said.causes
        .filter((c) => c.cause === cause)
        .map((c) => (
          <li key={`${c.at}${c.row}`} className="flex flex-wrap gap-x-3 py-0.5">
            <span className={`w-[200px] truncate ${c.at === "line" ? "pn" : ""}`}>{c.where}</span>
            <b className="w-[90px] text-right">{moved(Number(c.amount))}</b>
            <span className="text-ink-2">{c.terms.map((t) => `${t.label} ${quantity(t.value)}`).join(" · ")}</span>
          </li>
        ))}
    </ul>
  );
}

function ByElement({ said }: { said: Said }) {
  return (
    <table className="min-w-[340px]">
      <thead>
        <tr className="border-b border-hair-2 text-[12px] text-ink-2 [&>th]:font-normal">
          <th className="text-left">element</th>
          <th className="pl-4 text-right">expected</th>
          <th className="pl-4 text-right">actual</th>
          <th className="pl-4 text-right">difference</th>
        </tr>
      </thead>
      <tbody>
        {ELEMENTS.filter((e) => said.expected[e] || said.actual[e]).map((e) => {
          const [expected, actual] = [Number(said.expected[e] ?? 0), Number(said.actual[e] ?? 0)];
          return (
            <tr key={e} className="h-7 border-b border-hair">
              <td>
                <span className="mr-2 inline-block size-2.5" style={{ background: elementColour(e) }} />
                {ELEMENT_WORDS[e]}
              </td>
              <td className="text-right">{money(expected)}</td>
              <td className="text-right">{money(actual)}</td>
              <td className="text-right text-ink-2">{moved(actual - expected)}</td>
            </tr>
          );
        })}
        <tr className="h-7 font-semibold">
          <td>all</td>
          <td className="text-right">{money(Number(said.expected_total))}</td>
          <td className="text-right">{money(Number(said.actual_total))}</td>
          <td className="text-right">{moved(Number(said.difference))}</td>
        </tr>
      </tbody>
    </table>
  );
}
