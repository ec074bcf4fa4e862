import { useQuery } from "@tanstack/react-query";
import { answer, client } from "../../lib/api";
import type { Basis } from "../../lib/basis";
import { quantity } from "../../lib/number";

/** How many of a product can be built from what is there, and what one more would lack (rule W7). */
export function FromStock({
  sheet,
  basis,
  unit,
  state = "",
}: {
  sheet: number;
  basis: Basis;
  unit: string;
  state?: string;
}) {
  const found = useQuery({
    queryKey: ["sheets", "from stock", sheet, basis, state],
    queryFn: () => answer(client.GET("/api/costing/buildable", { params: { query: { sheet, ...basis } } })),
    staleTime: 0,
  });
  if (!found.data || found.data.quantity === null) return null;
  const { quantity: many, limited_by: lacking } = found.data;
  const all = lacking.map((each) => `${each.part} ${quantity(each.short, 3)}`);
  return (
    <span className="text-ink-2" title={all.length > 3 ? `short for one more: ${all.join(", ")}` : undefined}>
      from stock{" "}
      <b className="text-ink">
        {quantity(many, 3)} {unit}
      </b>{" "}
      can be built; one more lacks {all.slice(0, 3).join(", ")}
      {all.length > 3 && ` and ${all.length - 3} more`}
    </span>
  );
}
