import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../../kit/Button";
import { PartnerNames } from "../../kit/PartnerNames";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useUntrue } from "../../lib/untrue";

type Row = Schemas["MakerNumberOut"];

/** The approved manufacturers' numbers of a part (MPN), the first choice first. */
export function MakerNumbers({ part, may }: { part: string; may: boolean }) {
  const held = useQuery({
    queryKey: ["part", part, "makers"],
    queryFn: () => answer(client.GET("/api/parts/one/makers", { params: { query: { number: part } } })),
    staleTime: 0,
  });
  if (!held.data) return null;
  return <Makers key={JSON.stringify(held.data)} part={part} held={held.data} may={may} />;
}

function Makers({ part, held, may }: { part: string; held: Row[]; may: boolean }) {
  const [rows, setRows] = useState<Row[]>(held);
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<Row[], Refusal, void>({
    mutationFn: () => answer(client.PUT("/api/parts/one/makers", { params: { query: { number: part } }, body: rows })),
    onSuccess: () => {
      say(`Saved the manufacturers' numbers of ${part}.`);
      untrue("maker's number");
    },
  });
  const set = (at: number, change: Partial<Row>) =>
    setRows((old) => old.map((row, i) => (i === at ? { ...row, ...change } : row)));
  const swap = (at: number) =>
    setRows((old) => old.map((row, i) => (i === at ? old[at - 1]! : i === at - 1 ? old[at]! : row)));
  const changed = JSON.stringify(rows) !== JSON.stringify(held);
  return (
    <div className="flex flex-col gap-1.5">
      <PartnerNames id="makers" of="maker" />
      {rows.map((row, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place in the ranking
        <div key={at} className="grid grid-cols-[20px_1fr_1fr_80px_auto] items-center gap-1.5">
          <span className="text-right text-ink-3">{at + 1}</span>
          {(["maker", "number", "package"] as const).map((name) => (
            <input
              key={name}
              className={`field !min-h-[28px] ${name === "number" ? "pn" : ""}`}
              aria-label={`${name === "package" ? "package or case size" : name} of choice ${at + 1}`}
              aria-invalid={!!save.error?.of(`[${at}].${name}`)}
              placeholder={name === "package" ? "case" : name}
              disabled={!may}
              list={name === "maker" ? "makers" : undefined}
              value={row[name]}
              onChange={(event) => set(at, { [name]: event.target.value })}
            />
          ))}
          {may && (
            <span className="flex">
              <Button
                look="quiet"
                className="!min-h-0 !px-1"
                disabled={at === 0}
                onClick={() => swap(at)}
                aria-label={`Rank choice ${at + 1} higher`}
              >
                ↑
              </Button>
              <Button
                look="quiet"
                className="!min-h-0 !px-1"
                aria-label={`Take choice ${at + 1} out`}
                onClick={() => setRows((old) => old.filter((_, i) => i !== at))}
              >
                ×
              </Button>
            </span>
          )}
        </div>
      ))}
      {rows.length === 0 && <p className="text-ink-3">None is stated.</p>}
      {save.error && (
        <p role="alert" className="text-bad">
          {save.error.message}
        </p>
      )}
      {
        <span className="flex gap-2">
          <Button
            needs="parts"
            className="!min-h-[28px]"
            onClick={() => setRows((old) => [...old, { maker: "", number: "", package: "" }])}
          >
            Add one
          </Button>
          {changed && (
            <Button look="strong" className="!min-h-[28px]" disabled={save.isPending} onClick={() => save.mutate()}>
              Save the numbers
            </Button>
          )}
        </span>
      }
    </div>
  );
}
