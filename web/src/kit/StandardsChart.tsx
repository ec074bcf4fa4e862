import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, client } from "../lib/api";
import { ELEMENT_WORDS, ELEMENTS, elementColour } from "../lib/elements";
import { day, money } from "../lib/number";
import { moved } from "./Bridge";

const TALL = 130;
const LEFT = 52;
const FOOT = 20;

/** The standards of a part over time: a line that steps on the day each holds from. */
export function StandardsChart({ number, width }: { number: string; width: number }) {
  const found = useQuery({
    queryKey: ["standards", number],
    queryFn: () => answer(client.GET("/api/costing/standards", { params: { query: { number } } })),
    staleTime: 0,
  });
  const rows = found.data ?? [];
  if (!found.data) return null;
  if (rows.length === 0)
    return (
      <section aria-label="Standards over time">
        <h3 className="text-[12px] font-semibold text-blue">Standards over time</h3>
        <p className="text-ink-2">No standard was accepted for {number} yet.</p>
      </section>
    );
  const at = (iso: string) => Date.parse(`${iso}T00:00:00Z`);
  const now = Date.now();
  const first = at(rows[0]!.first_day);
  const last = Math.max(now, at(rows.at(-1)!.first_day) + 30 * 86_400_000);
  const values = rows.map((r) => r.unit);
  const pad = (Math.max(...values) - Math.min(...values)) * 0.25 || Math.max(...values) * 0.1 || 1;
  const [low, high] = [Math.max(0, Math.min(...values) - pad), Math.max(...values) + pad];
  const x = (time: number) => LEFT + ((time - first) / (last - first || 1)) * (width - LEFT - 8);
  const y = (value: number) => 8 + (1 - (value - low) / (high - low)) * (TALL - FOOT - 16);
  const path = rows
    .map((r, i) => `${i === 0 ? "M" : "H"}${x(at(r.first_day))} ${i === 0 ? y(r.unit) : `V${y(r.unit)}`}`)
    .join("");
  return (
    <section aria-label="Standards over time">
      <h3 className="text-[12px] font-semibold text-blue">Standards over time</h3>
      <svg
        role="img"
        aria-label={rows.map((r) => `from ${day(r.first_day)} ${money(r.unit)}`).join("; ")}
        width={width}
        height={TALL}
        className="block max-w-full text-[11px]"
      >
        {[low, (low + high) / 2, high].map((value) => (
          <g key={value}>
            <path d={`M${LEFT} ${y(value)}H${width}`} stroke="var(--hair)" />
            <text x={LEFT - 6} y={y(value) + 4} textAnchor="end" fill="var(--ink-3)">
              {money(value)}
            </text>
          </g>
        ))}
        {now < last && now > first && (
          <path d={`M${x(now)} 4V${TALL - FOOT}`} stroke="var(--hair-2)" strokeDasharray="2 3" />
        )}
        <path d={`${path}H${x(last)}`} fill="none" stroke="var(--blue)" strokeWidth={2} />
        {rows.map((r) => (
          <circle key={r.first_day} cx={x(at(r.first_day))} cy={y(r.unit)} r={3.5} fill="var(--blue)" />
        ))}
        <text x={LEFT} y={TALL - 5} fill="var(--ink-3)">
          {day(rows[0]!.first_day)}
        </text>
        <text x={width} y={TALL - 5} textAnchor="end" fill="var(--ink-3)">
          {day(new Date(last).toISOString())}
        </text>
      </svg>
      <ul>
        {[...rows].reverse().map((r, i) => {
          const before = rows[rows.length - 2 - i];
          return (
            <li key={r.first_day} className="flex items-baseline gap-2 border-b border-hair py-0.5">
              <span className="w-[84px] shrink-0" title={`accepted on ${day(r.at)}`}>
                {day(r.first_day)}
              </span>
              <Link to={`/rounds/${r.round}`} className="min-w-0 flex-1 truncate text-blue hover:underline">
                {r.name}
              </Link>
              <span className="shrink-0 text-[12px] text-ink-3">{r.by}</span>
              <span className="shrink-0 text-ink-2">{before ? moved(r.unit - before.unit) : ""}</span>
              <b className="w-[64px] shrink-0 text-right">{money(r.unit)}</b>
            </li>
          );
        })}
      </ul>
      <p className="mt-1 flex flex-wrap gap-x-3 text-[12px] text-ink-2">
        {ELEMENTS.map((name) => {
          const value = rows.at(-1)!.elements[name];
          return value ? (
            <span key={name} className="whitespace-nowrap">
              <i className="mr-1 inline-block h-2 w-2" style={{ background: elementColour(name) }} />
              {ELEMENT_WORDS[name]} {money(value)}
            </span>
          ) : null;
        })}
      </p>
    </section>
  );
}
