import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { DayField } from "../kit/DayField";
import { addressNow } from "../lib/address";
import { answer, client, type SheetHead } from "../lib/api";
import { useBasis } from "../lib/basis";
import { money } from "../lib/number";
import { BasisBar } from "../pieces/BasisBar";
import { ComparedTable } from "./ComparedTable";

/** Two revisions, alternates or days of one part, row by row and field by field, with what it does to the cost. */
export function CompareScreen() {
  const { number = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const [basis, changeBasis] = useBasis(true);
  const [all, setAll] = useState(false);
  const revisions = useQuery({
    queryKey: ["sheets", "of", number],
    queryFn: () => answer(client.GET("/api/sheets", { params: { query: { part: number } } })),
  });
  const side = (name: "left" | "right") => ({
    sheet: params.get(name) ?? "",
    day: params.get(`${name}_day`) ?? "",
  });
  const left = side("left");
  const right = side("right");
  const found = useQuery({
    queryKey: ["sheets", "compare", number, left, right, basis],
    queryFn: () =>
      answer(
        client.GET("/api/sheets/compare", {
          params: {
            query: {
              part: number,
              ...(left.sheet ? { left: Number(left.sheet) } : {}),
              ...(right.sheet ? { right: Number(right.sheet) } : {}),
              left_day: left.day,
              right_day: right.day,
              ...basis,
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const set = (change: Record<string, string>) =>
    setParams(
      () => {
        const next = addressNow();
        for (const [name, value] of Object.entries(change)) value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  const data = found.data;
  const differing = data?.rows.filter((row) => row.state !== "same" || Math.abs(row.effect) > 5e-7).length ?? 0;
  const effect = data && data.left_cost !== null && data.right_cost !== null ? data.right_cost - data.left_cost : null;
  const revision = (s: SheetHead) => `${s.alternate}, revision ${s.revision} — ${s.status}`;
  const chooser = (name: "left" | "right", words: string) => {
    const at = name === "left" ? left : right;
    return (
      <fieldset className="flex items-center gap-2">
        <legend className="float-left mr-2 text-ink-2">{words}</legend>
        <select
          className="field !w-auto"
          aria-label={`${words}: revision`}
          value={at.sheet}
          onChange={(e) => set({ [name]: e.target.value })}
        >
          <option value="">in force on the day</option>
          {revisions.data?.map((s) => (
            <option key={s.id} value={s.id}>
              {revision(s)}
            </option>
          ))}
        </select>
        <DayField
          aria-label={`${words}: day`}
          className="field !w-[112px]"
          value={at.day || (name === "left" ? data?.left_basis.as_of : data?.right_basis.as_of) || ""}
          onKeep={(iso) => set({ [`${name}_day`]: iso })}
        />
      </fieldset>
    );
  };
  return (
    <div className="flex h-full flex-col">
      {data && (
        <BasisBar
          unit={data.unit}
          currency={data.currency}
          options={data.options}
          asOf={data.right_basis.as_of}
          day={false}
          basis={basis}
          onChange={changeBasis}
        />
      )}
      <div className="flex flex-wrap items-center gap-x-8 gap-y-2 px-4 py-3">
        <h1 className="text-[20px] font-semibold">
          <Link className="font-mono tracking-tight hover:text-blue" to={`/sheets/${encodeURIComponent(number)}`}>
            {number}
          </Link>{" "}
          compared
        </h1>
        {chooser("left", "from")}
        {chooser("right", "to")}
      </div>
      {found.error && (
        <p role="alert" className="px-4 pb-2 text-bad">
          {found.error.message}
        </p>
      )}
      {data && (
        <>
          <div className="flex items-baseline gap-6 px-4 pb-2 text-ink-2">
            <span>
              Unit cost <b className="text-[15px] text-ink">{money(data.left_cost)}</b> to{" "}
              <b className="text-[15px] text-ink">{money(data.right_cost)}</b>
            </span>
            <span>
              Difference{" "}
              <b className="text-[15px] text-ink">
                {effect !== null && effect > 0 ? "+" : ""}
                {money(effect)}
              </b>
            </span>
            <span aria-live="polite">
              {differing === 0 ? "nothing differs" : `${differing} ${differing === 1 ? "row differs" : "rows differ"}`}
            </span>
            <label className="ml-auto flex items-center gap-1.5">
              <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} /> show what agrees too
            </label>
          </div>
          {(data.left_problem || data.right_problem) && (
            <p role="alert" className="px-4 pb-2 text-bad">
              {[data.left_problem, data.right_problem].filter(Boolean).join("; ")}
            </p>
          )}
          <ComparedTable
            rows={data.rows}
            all={all}
            from={`cost, ${data.left.alternate}/${data.left.revision}`}
            to={`cost, ${data.right.alternate}/${data.right.revision}`}
          />
        </>
      )}
    </div>
  );
}
