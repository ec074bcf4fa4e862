import { useQuery } from "@tanstack/react-query";
import { answer, client } from "../../lib/api";
import type { Basis } from "../../lib/basis";
import { money, quantity } from "../../lib/number";

const TALL = 210;
const LEFT = 54;
const FOOT = 24;
const LINES = ["var(--blue)", "var(--brass)", "var(--e-teal)", "var(--e-plum)"];
const DASHES = ["", "6 3", "2 3", "9 3 2 3"];

/** The unit cost over the lot, one line for each way of making the part, and where one becomes cheaper. */
export function LotCurve({
  sheet,
  state,
  basis,
  width,
}: {
  sheet: number;
  state: string;
  basis: Basis;
  width: number;
}) {
  const found = useQuery({
    queryKey: ["questions", "lots", sheet, state, basis],
    queryFn: () => answer(client.GET("/api/questions/lots", { params: { query: { sheet, ...basis } } })),
    placeholderData: (old) => old,
    staleTime: 0,
  });
  if (found.error) return <p className="text-ink-2">{found.error.message}</p>;
  const data = found.data;
  if (!data) return null;
  const all = data.curves.flatMap((c) => c.costs);
  const [first, last] = [data.lots[0]!, data.lots.at(-1)!];
  // What a single piece costs may dwarf all the rest: the scale is even by ratio where the spread is wide.
  const wide = Math.min(...all) > 0 && Math.max(...all) > 6 * Math.min(...all);
  const s = (value: number) => (wide ? Math.log(value) : value);
  const pad = (s(Math.max(...all)) - s(Math.min(...all))) * 0.06 || 1;
  const [low, high] = [s(Math.min(...all)) - pad, s(Math.max(...all)) + pad];
  const x = (lot: number) => LEFT + (Math.log(lot / first) / Math.log(last / first)) * (width - LEFT - 10);
  const y = (value: number) => 8 + (1 - (s(value) - low) / (high - low)) * (TALL - FOOT - 12);
  const ticks = [1, 10, 100, 1000, 10_000, 100_000].filter((t) => t >= first && t <= last);
  const levels = [0, 0.5, 1].map((part) => {
    const value = low + pad + part * (high - low - 2 * pad);
    return wide ? Math.exp(value) : value;
  });
  const own = data.curves[0]!;
  const here = own.costs[data.lots.indexOf(data.now)]!;
  return (
    <section aria-label="Cost over the lot">
      <h3 className="text-[12px] font-semibold text-blue">
        Unit cost over the {data.job ? "quantity of the job; lots below follow" : "lot; lots below stay"}
      </h3>
      <svg
        role="img"
        aria-label={data.curves
          .map(
            (c) =>
              `${c.name}: ${money(c.costs[0])} at ${quantity(first)}, ${money(c.costs.at(-1))} at ${quantity(last)}`,
          )
          .join("; ")}
        width={width}
        height={TALL}
        className="block max-w-full text-[11px]"
      >
        {levels.map((value) => (
          <g key={value}>
            <path d={`M${LEFT} ${y(value)}H${width}`} stroke="var(--hair)" />
            <text x={LEFT - 6} y={y(value) + 4} textAnchor="end" fill="var(--ink-3)">
              {money(value)}
            </text>
          </g>
        ))}
        {ticks.map((tick) => (
          <g key={tick}>
            <path d={`M${x(tick)} 6V${TALL - FOOT + 3}`} stroke="var(--hair)" />
            <text x={x(tick)} y={TALL - 6} textAnchor="middle" fill="var(--ink-3)">
              {quantity(tick)}
            </text>
          </g>
        ))}
        {data.curves.map((curve, i) => (
          <path
            key={curve.sheet}
            d={curve.costs.map((cost, n) => `${n === 0 ? "M" : "L"}${x(data.lots[n]!)} ${y(cost)}`).join("")}
            fill="none"
            stroke={LINES[i % LINES.length]}
            strokeDasharray={DASHES[i % DASHES.length]}
            strokeWidth={2}
          />
        ))}
        {data.crossings.map((crossing) => (
          <g key={`${crossing.lot}${crossing.than}`}>
            <path d={`M${x(crossing.lot)} 6V${TALL - FOOT}`} stroke="var(--ink-3)" strokeDasharray="2 2" />
            <circle
              cx={x(crossing.lot)}
              cy={y(crossing.cost)}
              r={4}
              fill="var(--paper)"
              stroke="var(--ink)"
              strokeWidth={1.5}
            />
          </g>
        ))}
        <circle cx={x(data.now)} cy={y(here)} r={4} fill="var(--blue)" />
      </svg>
      <ul>
        <li>
          <b>{money(here)}</b> at {quantity(data.now)} {data.unit}, as it stands
        </li>
        {data.curves.length > 1 &&
          data.curves.map((curve, i) => (
            <li key={curve.sheet} className="flex items-center gap-2">
              <svg width={26} height={8} aria-hidden="true">
                <path
                  d="M0 4H26"
                  stroke={LINES[i % LINES.length]}
                  strokeDasharray={DASHES[i % DASHES.length]}
                  strokeWidth={2}
                />
              </svg>
              {curve.name}
              {i === 0 && <span className="text-ink-3">this sheet</span>}
            </li>
          ))}
        {data.crossings.map((crossing) => (
          <li key={`${crossing.lot}${crossing.than}`}>
            from{" "}
            <b>
              {quantity(crossing.lot)} {data.unit}
            </b>{" "}
            on, {crossing.cheaper} is cheaper than {crossing.than}
          </li>
        ))}
        {data.curves.length > 1 && data.crossings.length === 0 && (
          <li className="text-ink-2">
            None of them crosses this one between {quantity(first)} and {quantity(last)}.
          </li>
        )}
      </ul>
    </section>
  );
}
