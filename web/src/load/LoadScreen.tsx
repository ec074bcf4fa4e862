import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { type Command, useCommands } from "../kit/commands";
import { DayField } from "../kit/DayField";
import { Empty } from "../kit/Empty";
import { addressNow } from "../lib/address";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { sheetAddress } from "../lib/basis";
import { day, percent, quantity, typed } from "../lib/number";
import { AddBuild } from "../pieces/builds/AddBuild";
import { type Build, readBuilds, writeBuilds } from "../pieces/builds/builds";
import { type Cell, LoadChart } from "./LoadChart";

type Load = Schemas["LoadOut"];
const KEYS: Command[] = [
  { keys: "ArrowUp ArrowDown ArrowLeft ArrowRight", words: "move through weeks and work centers" },
];

/** What a set of builds asks of every work center by week, against what it can do. */
export function LoadScreen() {
  const [params, setParams] = useSearchParams();
  useCommands(KEYS);
  const [cell, setCell] = useState<Cell | null>(null);
  const navigate = useNavigate();
  const builds = useMemo(() => readBuilds(params.get("builds") ?? ""), [params]);
  const drafts = params.get("drafts") === "1";
  const orders = params.get("orders") !== "0";
  const set = (name: string, value: string) =>
    setParams(
      () => {
        const next = addressNow();
        value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  const keep = (next: Build[]) => set("builds", writeBuilds(next));
  const found = useQuery<Load, Refusal>({
    queryKey: ["load", builds, drafts, orders],
    queryFn: () =>
      answer(
        client.POST("/api/work-centers/load", {
          body: { builds: builds.map((b) => ({ ...b, wanted: b.wanted ?? "" })), day: "", drafts, orders },
        }),
      ),
    enabled: builds.length > 0 || orders,
    retry: false,
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  // Without a build, and with no order released, there is nothing to be said.
  const nothing = builds.length === 0 && (!orders || !!found.error);
  const load = nothing || found.error ? undefined : found.data;
  const over = load?.centers.reduce((sum, c) => sum + c.over, 0) ?? 0;
  const sources = load?.sources.filter((s) => s.center === cell?.center && s.week === cell.week) ?? [];
  const at = load?.centers.find((c) => c.code === cell?.center);
  const week = load && cell ? load.weeks.indexOf(cell.week) : -1;
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex flex-wrap items-center gap-2 pb-2">
        <h1 className="mr-3 text-[20px] font-semibold">Load</h1>
        {builds.map((build, i) => (
          <span
            // biome-ignore lint/suspicious/noArrayIndexKey: the same product may be built twice
            key={`${build.part}${i}`}
            className="flex h-8 items-center gap-1.5 border border-hair-2 bg-paper pl-1"
          >
            <input
              key={build.quantity}
              className="h-6 w-12 border-b border-hair-2 bg-transparent text-right font-semibold"
              aria-label={`How many ${build.part}`}
              inputMode="decimal"
              placeholder="lot"
              defaultValue={build.quantity}
              onBlur={(e) =>
                typed(e.target.value) !== build.quantity &&
                keep(builds.map((b, n) => (n === i ? { ...b, quantity: typed(e.target.value) } : b)))
              }
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
            <span className="pn">{build.part}</span>
            {build.options.length > 0 && <span className="text-ink-3">{build.options.join(" ")}</span>}
            wanted
            <DayField
              aria-label={`${build.part} wanted on`}
              className="h-6 w-[96px] border-b border-hair-2 bg-transparent"
              placeholder="begun today"
              aria-invalid={!!found.error?.of(`builds[${i}].wanted`)}
              value={build.wanted ?? ""}
              onKeep={(iso) => keep(builds.map((b, n) => (n === i ? { ...b, wanted: iso } : b)))}
            />
            <button
              type="button"
              aria-label={`Take ${build.part} out`}
              className="h-full px-1.5 hover:text-bad"
              onClick={() => keep(builds.filter((_, n) => n !== i))}
            >
              ×
            </button>
          </span>
        ))}
        <AddBuild words="+ a build" onAdd={(part) => keep([...builds, { part, quantity: "", options: [] }])} />
        <label className="ml-auto flex items-center gap-1.5 text-ink-2">
          <input type="checkbox" checked={orders} onChange={() => set("orders", orders ? "0" : "")} />
          released orders count
        </label>
        <label className="flex items-center gap-1.5 text-ink-2">
          <input type="checkbox" checked={drafts} onChange={() => set("drafts", drafts ? "" : "1")} />
          drafts count
        </label>
        <Link to="/work-centers" className="text-blue hover:underline">
          Work centers
        </Link>
      </div>
      {found.error && !nothing && (
        <p role="alert" className="pb-2 text-bad">
          {found.error.message}
          {!drafts && (
            <Button look="quiet" className="!min-h-0" onClick={() => set("drafts", "1")}>
              Count drafts, too
            </Button>
          )}
        </p>
      )}
      {nothing && (
        <Empty title="Nothing is to be built yet">
          Add what is to be built, how many, and the day they are wanted. Every operation is laid on the shifts of its
          work center, backward from that day, and adds up here.
        </Empty>
      )}
      {load && load.centers.length === 0 && (
        <p className="text-ink-2">
          Nothing of these builds is done at a work center here: their sheets in force have no operations, or all are
          done outside.
        </p>
      )}
      {load && load.centers.length > 0 && (
        <>
          <p aria-live="polite" className="pb-2 text-ink-2">
            {over === 0 ? (
              "Every week holds what is asked of it."
            ) : (
              <b className="text-bad">
                {over} {over === 1 ? "week asks" : "weeks ask"} for more than there is
              </b>
            )}
            <span className="ml-3 text-[12px]">
              full: hours asked for; the line: hours there are (shifts, closed days, stops, stations at their pace)
            </span>
          </p>
          <LoadChart load={load} cell={cell} onCell={setCell} />
          <section
            aria-label="Where the hours come from"
            className="mt-2 h-[180px] shrink-0 overflow-y-auto border-t border-ink"
          >
            {at && week >= 0 ? (
              <>
                <h2 className="flex gap-3 py-1 font-semibold">
                  {at.name || at.code}, week of {day(cell!.week)}
                  <span className={at.load[week]! > at.capacity[week]! ? "text-bad" : "text-ink-2"}>
                    {quantity(at.load[week], 1)} h of {quantity(at.capacity[week], 1)} h
                    {at.capacity[week]! > 0 ? `, ${percent(at.load[week]! / at.capacity[week]!)}` : ""}
                  </span>
                </h2>
                <table className="w-full">
                  <tbody>
                    {sources.map((s, i) => (
                      // biome-ignore lint/suspicious/noArrayIndexKey: rows are only ever replaced together
                      <tr key={i} className="border-b border-hair">
                        <td className="w-[130px]">
                          <button
                            type="button"
                            className="pn min-h-[26px] text-blue hover:underline"
                            onClick={() => navigate(sheetAddress(s.part, { day: "", drafts }))}
                          >
                            {s.part}
                          </button>
                        </td>
                        <td>
                          {s.sequence} {s.name}
                          {s.any_of && <span className="text-ink-3"> · any of {s.any_of} may do it</span>}
                        </td>
                        <td className="text-ink-2">
                          {s.build === null ? (
                            <>
                              order <span className="pn">{s.order}</span>
                            </>
                          ) : (
                            `for ${builds[s.build]?.quantity || "a lot of"} ${builds[s.build]?.part}`
                          )}
                        </td>
                        <td className="w-[90px] text-right">{quantity(s.hours, 2)} h</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </>
            ) : (
              <p className="py-2 text-ink-3">Choose a week of a work center to see where its hours come from.</p>
            )}
          </section>
        </>
      )}
    </div>
  );
}
