import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { answer, client, type Schemas } from "../lib/api";
import { money, percent, quantity, signed } from "../lib/number";

type Figures = Schemas["FiguresOut"];

/** How full work centers were, what was scrapped, and what orders came to: the last thirteen weeks. */
export function FiguresScreen() {
  const said = useQuery({
    queryKey: ["work-orders", "figures"],
    queryFn: () => answer(client.GET("/api/shop/figures")),
    staleTime: 0,
  });
  const data = said.data;
  return (
    <ListFrame
      title="Shop figures"
      words="The last thirteen weeks, read off what was reported."
      error={said.error?.message}
    >
      <div className="min-h-0 overflow-y-auto">
        {data && data.centers.length === 0 && (
          <Empty title="Nothing was reported in thirteen weeks">
            Utilisation, scrap and yield stand here once work is reported on orders.
          </Empty>
        )}
        {data && data.centers.length > 0 && <Centers data={data} />}
        {data && data.parts.length > 0 && <Parts data={data} />}
      </div>
    </ListFrame>
  );
}

function Centers({ data }: { data: Figures }) {
  return (
    <section aria-label="Utilisation by work center and week">
      <h2 className="pb-1 font-semibold">Utilisation: hours reported of the hours open</h2>
      <table className="w-full border-t border-ink bg-paper">
        <thead>
          <tr className="h-7 border-b border-hair-2 text-[12px] text-ink-2 [&>th]:px-2 [&>th]:font-normal">
            <th className="text-left">work center</th>
            {data.weeks.map((week) => (
              <th key={week} className="text-right" title={`week of ${week}`}>
                {new Date(week).toLocaleDateString("en-GB", { day: "numeric", month: "short", timeZone: "UTC" })}
              </th>
            ))}
            <th className="text-right" title="ISO 22400-2: scrapped of all that were reported">
              scrap ratio
            </th>
          </tr>
        </thead>
        <tbody>
          {data.centers.map((center) => (
            <tr key={center.code} className="h-8 border-b border-hair [&>td]:px-2">
              <td className="whitespace-nowrap">
                <Link className="text-blue hover:underline" to={`/shop/at/${encodeURIComponent(center.code)}`}>
                  {center.name || center.code}
                </Link>
              </td>
              {center.utilisation.map((share, at) => (
                <td
                  key={data.weeks[at]}
                  className={`text-right ${share ? (share > 1 ? "font-semibold text-bad" : "") : "text-ink-3"}`}
                  style={
                    share
                      ? {
                          background: `color-mix(in srgb, var(--blue) ${Math.round(Math.min(share, 1) * 30)}%, transparent)`,
                        }
                      : undefined
                  }
                  title={`${quantity(center.hours[at], 1)} h`}
                >
                  {share ? percent(share) : "–"}
                </td>
              ))}
              <td className="text-right">{center.scrap_ratio === null ? "–" : percent(center.scrap_ratio)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Parts({ data }: { data: Figures }) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <section aria-label="Orders by part" className="pt-5">
      <h2 className="pb-1 font-semibold">What orders came to</h2>
      <table className="w-full border-t border-ink bg-paper">
        <thead>
          <tr className="h-7 border-b border-hair-2 text-[12px] text-ink-2 [&>th]:px-2 [&>th]:font-normal">
            <th className="text-left">part</th>
            <th className="text-left">what it is</th>
            <th className="text-right">orders</th>
            <th className="text-right">good</th>
            <th className="text-right" title="ISO 22400-2: scrapped of all that were reported">
              scrap ratio
            </th>
            <th className="text-right" title="ISO 22400-2: good of those inspected, through all operations">
              first pass yield
            </th>
            <th className="text-right">expected</th>
            <th className="text-right">actual</th>
            <th className="text-right">difference</th>
          </tr>
        </thead>
        <tbody>
          {data.parts.map((row) => {
            const difference = Number(row.actual) - Number(row.expected);
            return [
              <tr key={row.part} className="h-8 border-b border-hair [&>td]:px-2">
                <td>
                  <button
                    type="button"
                    className="pn min-h-6 text-blue hover:underline"
                    aria-expanded={open === row.part}
                    onClick={() => setOpen(open === row.part ? null : row.part)}
                  >
                    {row.part}
                  </button>
                </td>
                <td className="text-ink-2">{row.description}</td>
                <td className="text-right">{row.orders.length}</td>
                <td className="text-right">{quantity(row.good)}</td>
                <td className="text-right">{row.scrap_ratio === null ? "–" : percent(row.scrap_ratio)}</td>
                <td className="text-right">{row.first_pass === null ? "–" : percent(row.first_pass)}</td>
                <td className="text-right">{money(Number(row.expected))}</td>
                <td className="text-right">{money(Number(row.actual))}</td>
                <td className={`text-right font-semibold ${difference > 0 ? "text-brass" : "text-blue"}`}>
                  {signed(difference)}
                  {Number(row.expected) > 0 && (
                    <span className="pl-1.5 font-normal text-ink-2">
                      {percent(Math.abs(difference) / Number(row.expected))}
                    </span>
                  )}
                </td>
              </tr>,
              open === row.part && (
                <tr key={`${row.part} orders`} className="border-b border-hair">
                  <td colSpan={9} className="px-2 py-1.5">
                    {row.orders.map((order) => (
                      <Link
                        key={order.id}
                        className="pn mr-4 inline-flex min-h-6 items-center text-blue underline"
                        to={`/shop/orders/${order.id}`}
                      >
                        {order.number}
                      </Link>
                    ))}
                  </td>
                </tr>
              ),
            ];
          })}
        </tbody>
      </table>
    </section>
  );
}
