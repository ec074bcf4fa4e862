import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, client } from "../lib/api";
import { quantity } from "../lib/number";

/** What an operation takes for the units that are typed: the list's amounts are proposed, and what was really taken is typed over them. */
export function DayTakes({
  order,
  sequence,
  units,
  taken,
  onTaken,
}: {
  order: string;
  sequence: number;
  units: string;
  taken: Record<number, string>;
  onTaken: (row: number, text: string) => void;
}) {
  const takes = useQuery({
    queryKey: ["work-orders", "takes", order, sequence, units],
    queryFn: () => answer(client.GET("/api/shop/day/takes", { params: { query: { order, sequence, units } } })),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  if (takes.error)
    return (
      <p role="alert" className="px-2 py-1 text-bad">
        {takes.error.message}
      </p>
    );
  if (!takes.data) return null;
  if (takes.data.length === 0) return <p className="px-2 py-1 pl-[190px] text-ink-3">takes nothing</p>;
  return (
    <ul aria-label={`What ${order}, ${sequence} takes`} className="grid grid-cols-2 gap-x-6 py-1 pr-2 pl-[190px]">
      {takes.data.map((t) => (
        <li key={t.row} className="flex items-center gap-2 py-0.5">
          <span className="pn">{t.part}</span>
          <span className="min-w-0 flex-1 truncate text-ink-2" title={t.description}>
            {t.description}
            {!t.backflush && <span className="text-ink-3"> issued by the store</span>}
          </span>
          <input
            className="field !min-h-[28px] !w-[86px] text-right"
            aria-label={`${t.part} taken for ${order}, ${sequence}`}
            placeholder={t.backflush ? quantity(t.quantity) : "0"}
            value={taken[t.row] ?? ""}
            onChange={(event) => onTaken(t.row, event.target.value)}
          />
          <span className="w-[110px] text-ink-3">
            {t.unit}
            {(taken[t.row] ?? "").trim() ? `, by the list ${quantity(t.quantity)}` : ""}
          </span>
        </li>
      ))}
    </ul>
  );
}
