import { useMutation, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useRefusal } from "../../lib/session";
import { useUntrue } from "../../lib/untrue";

/** How the stock of a part is told apart: not, by lot, or each unit by its serial number. */
export function Traced({ part }: { part: string }) {
  const refused = useRefusal("parts");
  const untrue = useUntrue();
  const say = useSay();
  const lots = useQuery({
    queryKey: ["work-orders", "lots", part],
    queryFn: () => answer(client.GET("/api/shop/lots", { params: { query: { part } } })),
  });
  const keep = useMutation<Schemas["LotsOut"], Refusal, string>({
    mutationFn: (by) => answer(client.POST("/api/shop/lots", { params: { query: { part } }, body: { by } })),
    onSuccess: () => untrue("work order"),
    onError: (error) => say(error.problems[0]?.message ?? error.message, { bad: true }),
  });
  if (!lots.data) return null;
  return (
    <div className="flex items-center gap-3 pt-2">
      <label className="flex items-center gap-1.5 text-ink-2">
        Its stock is told apart
        <select
          className="field !min-h-[28px] !w-[140px]"
          value={lots.data.by}
          disabled={!!refused}
          title={refused}
          onChange={(event) => keep.mutate(event.target.value)}
        >
          <option value="">not at all</option>
          <option value="lot">by lot</option>
          <option value="serial">by serial number</option>
        </select>
      </label>
      {lots.data.by && (
        <Link className="text-blue underline" to={`/shop/traced?part=${encodeURIComponent(part)}`}>
          {lots.data.count}{" "}
          {lots.data.by === "lot" ? (lots.data.count === 1 ? "lot" : "lots") : lots.data.count === 1 ? "unit" : "units"}
        </Link>
      )}
    </div>
  );
}
