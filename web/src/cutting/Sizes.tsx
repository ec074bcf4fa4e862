import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { money, quantity, typed } from "../lib/number";
import { useRefusal } from "../lib/session";

type Of = Schemas["SizesOut"];
interface Draft {
  length_mm: string;
  width_mm: string;
  cost: string;
}

/** In which sizes a material comes, and what is left of it. */
export function Sizes({ part, boards, onChanged }: { part: string; boards: boolean; onChanged: () => void }) {
  const queries = useQueryClient();
  const key = ["cutting", "sizes", part] as const;
  const found = useQuery({
    queryKey: key,
    queryFn: () => answer(client.GET("/api/cutting/sizes", { params: { query: { number: part } } })),
  });
  const held = (now: Of) => {
    queries.setQueryData(key, now);
    onChanged();
  };
  if (!found.data) return null;
  return (
    <div className="grid grid-cols-2 gap-6">
      <Stated key={JSON.stringify(found.data.sizes)} of={found.data} boards={boards} onKept={held} />
      <Left of={found.data} boards={boards} onKept={held} onGone={() => queries.invalidateQueries({ queryKey: key })} />
    </div>
  );
}

function Stated({ of, boards, onKept }: { of: Of; boards: boolean; onKept: (now: Of) => void }) {
  const start = of.sizes.map((s) => ({ length_mm: s.length_mm, width_mm: s.width_mm ?? "", cost: s.cost ?? "" }));
  const [rows, setRows] = useState<Draft[]>(start);
  const reason = useRefusal("cutting");
  const keep = useMutation<Of, Refusal, void>({
    mutationFn: () =>
      answer(
        client.PUT("/api/cutting/sizes", {
          params: { query: { number: of.part } },
          body: rows.map((r) => ({ length_mm: typed(r.length_mm), width_mm: typed(r.width_mm), cost: typed(r.cost) })),
        }),
      ),
    onSuccess: onKept,
  });
  const set = (at: number, change: Partial<Draft>) => setRows(rows.map((r, i) => (i === at ? { ...r, ...change } : r)));
  const changed = JSON.stringify(rows) !== JSON.stringify(start);
  const cell = (at: number, name: keyof Draft, label: string, placeholder = "") => (
    <input
      className="field !min-h-[26px] w-full text-right"
      aria-label={`${label} of size ${at + 1}`}
      aria-invalid={keep.error?.problems.some((p) => p.place === `sizes[${at}].${name}`)}
      inputMode="decimal"
      disabled={!!reason}
      placeholder={placeholder}
      value={rows[at]![name]}
      onChange={(event) => set(at, { [name]: event.target.value })}
    />
  );
  return (
    <section aria-label="Sizes it comes in">
      <h3 className="pb-1 font-semibold">It comes as</h3>
      {!of.stated && of.sizes.length > 0 && <p className="pb-1 text-ink-2">by the overall size of the part itself</p>}
      <table className="w-full">
        <thead>
          <tr className="text-left text-[12px] text-ink-2">
            <th className="font-normal">Length, mm</th>
            {boards && <th className="font-normal">Width, mm</th>}
            <th className="font-normal">One costs</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((_, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a size is its row
            <tr key={at}>
              <td className="py-0.5 pr-1">{cell(at, "length_mm", "Length")}</td>
              {boards && <td className="py-0.5 pr-1">{cell(at, "width_mm", "Width")}</td>}
              <td className="py-0.5 pr-1">
                {cell(at, "cost", "Cost", of.sizes[at]?.by_part ? money(Number(of.sizes[at].by_part)) : "")}
              </td>
              <td className="w-6">
                <button
                  type="button"
                  className="min-h-6 min-w-6 text-ink-3 hover:text-bad"
                  aria-label={`Take size ${at + 1} out`}
                  onClick={() => setRows(rows.filter((__, i) => i !== at))}
                >
                  ×
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {keep.error && <p className="text-bad">{keep.error.message}</p>}
      <div className="flex gap-2 pt-1">
        <Button
          className="!min-h-[26px]"
          disabled={!!reason}
          onClick={() => setRows([...rows, { length_mm: "", width_mm: "", cost: "" }])}
        >
          + a size
        </Button>
        <Button
          className="!min-h-[26px]"
          needs="cutting"
          disabled={!changed || keep.isPending}
          onClick={() => keep.mutate()}
        >
          Keep these sizes
        </Button>
      </div>
    </section>
  );
}

function Left({
  of,
  boards,
  onKept,
  onGone,
}: {
  of: Of;
  boards: boolean;
  onKept: (now: Of) => void;
  onGone: () => void;
}) {
  const [length, setLength] = useState("");
  const [width, setWidth] = useState("");
  const [note, setNote] = useState("");
  const add = useMutation<Of, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/cutting/leftovers", {
          params: { query: { number: of.part } },
          body: { length_mm: typed(length), width_mm: boards ? typed(width) : "", count: "1", note },
        }),
      ),
    onSuccess: (now) => {
      setLength("");
      setWidth("");
      setNote("");
      onKept(now);
    },
  });
  const gone = useMutation<unknown, Refusal, number>({
    mutationFn: (key) =>
      answer(client.POST("/api/cutting/leftovers/{leftover_id}/gone", { params: { path: { leftover_id: key } } })),
    onSuccess: onGone,
  });
  const field = (label: string, value: string, onChange: (value: string) => void, wide = false) => (
    <input
      className={`field !min-h-[26px] ${wide ? "min-w-0 flex-1" : "!w-[74px] text-right"}`}
      aria-label={label}
      placeholder={label.toLowerCase()}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
  return (
    <section aria-label="Leftovers">
      <h3 className="pb-1 font-semibold">Left of it, and used first</h3>
      {of.leftovers.length === 0 && <p className="text-ink-2">Nothing that is worth keeping.</p>}
      <ul>
        {of.leftovers.map((x) => (
          <li key={x.id} className="flex min-h-6 items-baseline gap-2 border-t border-hair">
            <span>
              {quantity(x.length_mm, 1)}
              {x.width_mm && ` × ${quantity(x.width_mm, 1)}`} mm
            </span>
            <span className="text-ink-2">{x.words}</span>
            <Button look="quiet" className="ml-auto !min-h-0" needs="cutting" onClick={() => gone.mutate(x.id)}>
              it is gone
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="flex gap-1.5 pt-1"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        {field("Length", length, setLength)}
        {boards && field("Width", width, setWidth)}
        {field("Where it lies", note, setNote, true)}
        <Button type="submit" needs="cutting" className="!min-h-[26px]" disabled={!length.trim() || add.isPending}>
          Found
        </Button>
      </form>
      {(add.error ?? gone.error) && <p className="text-bad">{(add.error ?? gone.error)!.message}</p>}
    </section>
  );
}
