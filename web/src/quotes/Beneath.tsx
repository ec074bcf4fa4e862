import { quantity } from "../lib/number";
import type { Quote } from "./states";

/** How prices moved since the quote before, and by what. */
export function Moved({ quote }: { quote: Quote }) {
  if (!quote.since || quote.moved.length === 0) return null;
  return (
    <section aria-label="What moved" className="mb-2 border-l-2 border-brass pl-3">
      <h2 className="text-[12px] text-ink-2">
        Since <span className="pn">{quote.since}</span>
      </h2>
      <ul>
        {quote.moved.map((m) => (
          <li key={`${m.part} ${m.quantity}`}>
            {quantity(m.quantity)} × <span className="pn">{m.part}</span>: {m.before} → <b>{m.now}</b>{" "}
            <span className="text-ink-2">
              {Object.entries(m.causes)
                .map(([what, by]) => `${what} ${Number(by) > 0 ? "+" : ""}${by}`)
                .join(", ")}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What of the costs is not certain, quantity by quantity. */
export function Uncertain({ quote }: { quote: Quote }) {
  const told = new Map<string, string[]>();
  for (const q of quote.quantities)
    for (const words of q.uncertain) told.set(words, [...(told.get(words) ?? []), quantity(q.quantity)]);
  if (told.size === 0) return null;
  return (
    <section aria-label="What is uncertain" className="mt-4">
      <h2 className="border-b border-ink pb-1 font-semibold">What is uncertain</h2>
      <ul className="pt-1">
        {[...told].map(([words, at]) => (
          <li key={words}>
            {words} <span className="text-[12px] text-ink-3">at {at.join(", ")}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
