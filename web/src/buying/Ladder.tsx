import { money, quantity } from "../lib/number";
import { costAt, type LookedAt, ratioPlace, reachOf, stairsOf } from "../model/plan";

const WIDE = 356;
const TALL = 190;
const LEFT = 44;
const BOTTOM = 22;

/** Round quantities between two, some five of them. */
function ticks(least: number, most: number): number[] {
  const found: number[] = [];
  for (let power = 10 ** Math.floor(Math.log10(least)); power <= most; power *= 10)
    for (const times of [1, 2, 5]) if (power * times >= least && power * times <= most) found.push(power * times);
  const every = Math.ceil(found.length / 6);
  return found.filter((_, at) => at % every === 0);
}

/**
 * The price ladder of a need: the unit price over the quantity for every offer that may be used. The line of equal money runs through
 * what is bought: whatever lies under it costs less in all.
 */
export function Ladder({
  offers,
  needed,
  bought,
  at,
}: {
  offers: LookedAt[];
  needed: number;
  bought: { offer: number; quantity: number; price: number }[];
  /** The offer under the pointer or at the cursor. */
  at: number | null;
}) {
  const usable = offers.filter((o) => o.ruled_out === "" && o.breaks.length > 0);
  if (usable.length === 0) return null;
  const reach = reachOf(usable, [needed, ...bought.map((b) => b.quantity)]);
  const x = (n: number) => LEFT + ratioPlace(n, reach) * (WIDE - LEFT - 8);
  const y = (price: number) => 6 + (1 - (price - reach.low) / (reach.price - reach.low)) * (TALL - BOTTOM - 6);
  const one = bought.length === 1 ? bought[0] : undefined;
  const even = one
    ? Array.from({ length: 40 }, (_, n) => reach.least * (reach.most / reach.least) ** (n / 39))
        .map((n): [number, number] => [n, (one.quantity * one.price) / n])
        .filter(([, price]) => price <= reach.price && price >= reach.low)
    : [];
  const chosen = (o: LookedAt) => bought.some((b) => b.offer === o.offer);
  return (
    <svg viewBox={`0 0 ${WIDE} ${TALL}`} className="block w-full" role="img" aria-label={said(usable, needed, bought)}>
      {[0, 0.4, 0.8].map((share) => {
        const price = reach.low + (reach.price - reach.low) * share;
        return (
          <g key={share}>
            <line x1={LEFT} x2={WIDE - 8} y1={y(price)} y2={y(price)} stroke="var(--hair)" />
            <text x={LEFT - 6} y={y(price) + 4} textAnchor="end" fontSize="11" fill="var(--ink-3)">
              {money(price)}
            </text>
          </g>
        );
      })}
      {ticks(reach.least, reach.most).map((n) => (
        <text key={n} x={x(n)} y={TALL - 6} textAnchor="middle" fontSize="11" fill="var(--ink-3)">
          {quantity(n)}
        </text>
      ))}
      {even.length > 1 && (
        <path
          d={`M${even.map(([n, price]) => `${x(n).toFixed(1)} ${y(price).toFixed(1)}`).join("L")}`}
          fill="none"
          stroke="var(--brass)"
          strokeWidth="1"
          strokeDasharray="1.5 3"
        />
      )}
      {usable
        .toSorted((a, b) => Number(chosen(a)) - Number(chosen(b)))
        .map((o) => {
          const stairs = stairsOf(o, reach.most).filter((s) => s.to > reach.least);
          const path = stairs
            .map(
              (s, n) =>
                `${n ? "L" : "M"}${x(s.from).toFixed(1)} ${y(s.price).toFixed(1)}L${x(s.to).toFixed(1)} ${y(s.price).toFixed(1)}`,
            )
            .join("");
          const mine = chosen(o);
          return (
            <path
              key={o.offer}
              d={path}
              fill="none"
              stroke={mine ? "var(--blue)" : o.offer === at ? "var(--ink)" : "var(--ink-3)"}
              strokeWidth={mine ? 2.4 : o.offer === at ? 2 : 1.1}
              strokeDasharray={mine || o.offer === at ? undefined : "5 2"}
            />
          );
        })}
      {needed > 0 && (
        <g>
          <line x1={x(needed)} x2={x(needed)} y1={4} y2={TALL - BOTTOM} stroke="var(--ink)" strokeWidth="1" />
          <text
            x={x(needed) + (ratioPlace(needed, reach) > 0.6 ? -4 : 4)}
            y={13}
            textAnchor={ratioPlace(needed, reach) > 0.6 ? "end" : "start"}
            fontSize="11"
            fill="var(--ink)"
          >
            need {quantity(needed)}
          </text>
        </g>
      )}
      {bought.map((b) => (
        <g key={b.offer}>
          <circle
            cx={x(b.quantity)}
            cy={y(b.price)}
            r="4.5"
            fill="var(--blue)"
            stroke="var(--paper)"
            strokeWidth="1.5"
          />
          <text
            x={x(b.quantity) + (ratioPlace(b.quantity, reach) > 0.7 ? -8 : 8)}
            y={y(b.price) + 16}
            textAnchor={ratioPlace(b.quantity, reach) > 0.7 ? "end" : "start"}
            fontSize="11"
            fontWeight="600"
            fill="var(--blue)"
          >
            {quantity(b.quantity)} at {money(b.price)}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** The picture in words. */
function said(
  offers: LookedAt[],
  needed: number,
  bought: { offer: number; quantity: number; price: number }[],
): string {
  const stairs = offers.map(
    (o) => `${o.supplier}: ${o.breaks.map(([start, price]) => `${price} ${o.currency} from ${start}`).join(", ")}`,
  );
  const chosen = bought.map((b) => {
    const offer = offers.find((o) => o.offer === b.offer);
    return `${quantity(b.quantity)} from ${offer?.supplier ?? ""} for ${money(offer ? costAt(offer, b.quantity) : null)}`;
  });
  return `Price ladder. Needed: ${quantity(needed)}. Bought: ${chosen.join(" and ") || "nothing"}. ${stairs.join(". ")}`;
}
