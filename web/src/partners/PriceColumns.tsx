import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

type List = Schemas["PriceListOut"];

/** What a column of a price list may hold. */
const HOLDS: [name: string, word: string][] = [
  ["part", "our number"],
  ["maker_number", "maker's number"],
  ["maker", "maker"],
  ["their_number", "their number"],
  ["from", "from this quantity"],
  ["price", "price"],
  ["price_per", "price is for so many"],
  ["currency", "currency"],
  ["unit", "unit"],
  ["minimum", "smallest order"],
  ["multiple", "pack of"],
  ["available", "there now"],
  ["lead_days", "days until it leaves"],
  ["valid_from", "holds from"],
  ["valid_to", "holds to"],
];

/** The columns of a list beside their first rows, and what each holds; what is said here holds for its next list as well. */
export function PriceColumns({ list }: { list: List }) {
  const [columns, setColumns] = useState(list.columns);
  const untrue = useUntrue();
  const save = useMutation<List, Refusal, void>({
    mutationFn: () =>
      answer(
        client.PUT("/api/buying/price-lists/{list_id}/columns", {
          params: { path: { list_id: list.id } },
          body: { columns, version: list.version },
        }),
      ),
    onSuccess: () => untrue("offer"),
  });
  const holds = (at: number) => Object.entries(columns).find(([, column]) => column === at)?.[0] ?? "";
  const say = (at: number, name: string) => {
    const others = Object.entries(columns).filter(([held, column]) => column !== at && held !== name);
    setColumns(Object.fromEntries(name ? [...others, [name, at]] : others));
  };
  const changed =
    JSON.stringify(Object.entries(columns).sort()) !== JSON.stringify(Object.entries(list.columns).sort());
  const wide = Math.max(list.titles.length, ...list.sample.map((row) => row.length));
  return (
    <details className="mt-2" open={list.said?.good === 0}>
      <summary className="text-blue">
        Which column holds what{list.mapped && <span className="text-ink-3"> as it was said before</span>}
      </summary>
      <table className="mt-1 w-full" aria-label="Columns of the list">
        <thead>
          <tr className="text-left text-[12px] text-ink-3">
            <th className="font-normal">title</th>
            <th className="font-normal">first rows</th>
            <th className="font-normal">holds</th>
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: wide }, (_, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
            <tr key={at} className="border-t border-hair align-baseline">
              <td className="max-w-[110px] truncate pr-2 font-semibold">{list.titles[at] || `column ${at + 1}`}</td>
              <td className="max-w-[130px] truncate pr-2 text-[12px] text-ink-2">
                {list.sample
                  .map((row) => row[at])
                  .filter(Boolean)
                  .join(", ")}
              </td>
              <td className="py-0.5">
                <select
                  className="field !min-h-[26px]"
                  aria-label={`What ${list.titles[at] || `column ${at + 1}`} holds`}
                  value={holds(at)}
                  onChange={(event) => say(at, event.target.value)}
                >
                  <option value="">nothing we need</option>
                  {HOLDS.map(([name, word]) => (
                    <option key={name} value={name}>
                      {word}
                    </option>
                  ))}
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {save.error && (
        <p role="alert" className="pt-1 text-bad">
          {save.error.problems[0]?.message ?? save.error.message}
        </p>
      )}
      <Button needs="buying" className="mt-2" disabled={!changed || save.isPending} onClick={() => save.mutate()}>
        Read it so
      </Button>
    </details>
  );
}
