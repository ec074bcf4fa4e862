import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { addressNow } from "../lib/address";
import { answer, client, refusal, type Schemas } from "../lib/api";
import { basisQuery, useBasis } from "../lib/basis";
import { BasisBar } from "../pieces/BasisBar";
import { AddBuild } from "../pieces/builds/AddBuild";
import { KeptLists } from "./KeptLists";
import { Leave } from "./Leave";
import { ListTable } from "./ListTable";
import { Making } from "./Making";
import { readWanted, type Wanted, writeWanted } from "./wanted";

/** A list of one product or several for whoever is to read it: made here, seen here, and from here it leaves in every shape. */
export function ListScreen() {
  const [params, setParams] = useSearchParams();
  const [basis, changeBasis] = useBasis(false);
  const parts = params.getAll("part");
  const wanted = readWanted(params);
  const change = (next: Partial<Wanted>) =>
    setParams(() => writeWanted(addressNow(), { ...readWanted(addressNow()), ...next }), { replace: true });
  const choose = (next: string[]) =>
    setParams(
      () => {
        const fresh = addressNow();
        fresh.delete("part");
        // A revision was chosen for the one product that stood here.
        fresh.delete("sheet");
        for (const part of new Set(next)) fresh.append("part", part);
        return fresh;
      },
      { replace: true },
    );
  const words = useQuery({ queryKey: ["lists"], queryFn: () => answer(client.GET("/api/lists/words")) });
  const asked = writeWanted(new URLSearchParams(basisQuery(basis)), wanted);
  if (params.get("sheet")) asked.set("sheet", params.get("sheet")!);
  // Where several stand here, the first is shown; each leaves as a file of its own.
  const shown = params.get("look") && parts.includes(params.get("look")!) ? params.get("look")! : parts[0];
  const made = useQuery({
    queryKey: ["sheets", "list", shown, asked.toString()],
    queryFn: async (): Promise<Schemas["MadeListOut"]> => {
      const response = await fetch(`/api/lists/look?part=${encodeURIComponent(shown!)}&${asked}`);
      const said = await response.json().catch(() => null);
      if (!response.ok) throw refusal(response.status, said);
      return said;
    },
    enabled: !!shown,
    placeholderData: keepPreviousData,
  });
  const list = shown ? made.data : undefined;
  return (
    <div className="flex h-full flex-col">
      <BasisBar
        unit={list?.unit ?? ""}
        currency={list?.currency ?? ""}
        options={list?.options ?? []}
        asOf={list?.as_of ?? ""}
        basis={basis}
        onChange={changeBasis}
      />
      <div className="flex flex-wrap items-center gap-2 px-4 pt-3 pb-2">
        <h1 className="mr-3 text-[20px] font-semibold">List</h1>
        {parts.map((part) => (
          <span
            key={part}
            className={`flex h-8 items-center border bg-paper ${part === shown ? "border-blue" : "border-hair-2"}`}
          >
            <button
              type="button"
              className="pn h-full px-2 hover:text-blue"
              aria-pressed={part === shown}
              title="Show its list"
              onClick={() => {
                const fresh = addressNow();
                fresh.set("look", part);
                setParams(fresh, { replace: true });
              }}
            >
              {part}
              {params.get("sheet") && list && <span className="font-sans text-ink-2"> revision {list.revision}</span>}
            </button>
            <button
              type="button"
              className="h-full min-w-6 border-l border-hair text-ink-3 hover:text-bad"
              aria-label={`Take ${part} out`}
              onClick={() => choose(parts.filter((p) => p !== part))}
            >
              ×
            </button>
          </span>
        ))}
        <AddBuild words="+ a product" onAdd={(part) => choose([...parts, part])} />
        <KeptLists kept={words.data?.kept ?? []} wanted={wanted} onTake={change} />
      </div>
      {made.error && (
        <p role="alert" className="px-4 pb-2 text-bad">
          {made.error.message}
          {!basis.drafts && (
            <Button look="quiet" className="!min-h-0" onClick={() => changeBasis({ drafts: true })}>
              Count drafts, too
            </Button>
          )}
        </p>
      )}
      {parts.length === 0 ? (
        <Empty title="No product stands here yet">
          Add the products that a list is for. Choose how its rows stand, what columns its reader needs and what they
          call them; it leaves as a workbook, as text, or to print, with pictures where parts have them.
        </Empty>
      ) : (
        <div className="flex min-h-0 flex-1 border-t border-hair">
          {words.data && <Making words={words.data} list={list} wanted={wanted} onChange={change} />}
          <div className="flex min-w-0 flex-1 flex-col">
            {list && (
              <div
                className={`min-h-0 flex-1 ${made.isPlaceholderData ? "opacity-60" : ""}`}
                aria-busy={made.isPlaceholderData}
              >
                <ListTable list={list} wanted={wanted} onChange={change} />
              </div>
            )}
            <Leave parts={parts} asked={asked} ready={!!list && !made.error} known={words.data?.shapes ?? []} />
          </div>
        </div>
      )}
    </div>
  );
}
