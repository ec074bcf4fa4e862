import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { JobProgress, whileItRuns } from "../kit/JobProgress";
import { usePages } from "../kit/usePages";
import { Word } from "../kit/Word";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { SeverityMark } from "../pieces/findings/SeverityMark";
import { placeOf } from "../pieces/findings/useFindings";
import { Waive } from "../pieces/findings/Waive";

const GRID = "grid grid-cols-[72px_200px_minmax(0,1.2fr)_minmax(0,1fr)_240px] items-center gap-x-3 px-3";

/** What a code is about, in words. */
const CODES: Record<string, string> = {
  loop: "parts that contain themselves",
  unit: "units that do not convert",
  "no-sheet": "made parts without a sheet",
  lifecycle: "lifecycle of parts",
  overlap: "revisions in force at once",
  "option-removes": "options that remove too much",
  "phantom-work": "phantoms with work",
  "wrong-kind": "sheets of bought parts",
  "no-cost": "parts without a cost",
  "no-routing": "sheets without operations",
  stations: "more stations than there are",
  "no-lines": "sheets without lines",
  designators: "reference designators",
  "item-twice": "item numbers used twice",
  "no-quantity": "quantities of 0",
  "never-in-force": "lines never in force",
  "lost-default": "defaults without a sheet",
  "group-of-none": "any of a group, in none",
  "run-time": "run times that compute to something else",
  "model-count": "models that count otherwise",
};

/** Everything that the last look through all sheets found. */
export function FindingsScreen() {
  const [code, setCode] = useState("");
  const [text, setText] = useState("");
  const [waived, setWaived] = useState(false);
  const search = useDeferredValue(text.trim());
  const queries = useQueryClient();
  const untrue = useUntrue();
  const survey = useQuery({
    queryKey: ["findings", "survey"],
    queryFn: () => answer(client.GET("/api/findings/survey")),
    // While the worker is at it, its progress is asked for.
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
    staleTime: 0,
  });
  const last = survey.data?.finished_at ?? "";
  const filter = { code, search, waived };
  const { box, rows, total, at } = usePages({
    key: ["findings", "page", last, filter],
    ask: (offset, limit) => answer(client.GET("/api/findings", { params: { query: { ...filter, offset, limit } } })),
    size: 100,
    tall: 34,
  });
  const ask = useMutation<Schemas["SurveyOut"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/findings/survey")),
    onSuccess: (state) => {
      queries.setQueryData(["findings", "survey"], state);
      untrue("finding");
    },
  });
  const state = survey.data;
  const job = state?.job;
  return (
    <div className="flex h-full flex-col px-4 pt-3">
      <div className="flex flex-wrap items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">
          <Word of="finding">Findings</Word>
        </h1>
        <input
          className="field ml-3 max-w-[220px]"
          type="search"
          aria-label="Find by the part of the sheet"
          placeholder="Part of the sheet"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <select className="field !w-auto" aria-label="About" value={code} onChange={(e) => setCode(e.target.value)}>
          <option value="">about everything</option>
          {Object.entries(state?.codes ?? {})
            .sort()
            .map(([name, n]) => (
              <option key={name} value={name}>
                {CODES[name] ?? name} ({n})
              </option>
            ))}
        </select>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={waived} onChange={(e) => setWaived(e.target.checked)} /> show waived ones
        </label>
        <span className="ml-auto flex items-center gap-3 text-ink-2" aria-live="polite">
          {state?.finished_at
            ? `${quantity(state.lines)} lines looked through on ${day(state.finished_at)}, ${state.finished_at.slice(11, 16)} UTC`
            : ""}
          <Button look="strong" disabled={!!job || ask.isPending} onClick={() => ask.mutate()}>
            Check everything now
          </Button>
        </span>
      </div>
      {job && <JobProgress job={job} stale={["findings"]} className="mb-2" />}
      {!job && (ask.error || survey.error || state?.failed) && (
        <p role="alert" className="pb-2 text-bad">
          {(ask.error ?? survey.error)?.message ?? state?.failed}
        </p>
      )}
      {state && total === 0 ? (
        <Empty title={state.finished_at ? "Nothing is found" : "Nothing was looked through yet"}>
          {state.finished_at
            ? "No sheet has anything of this kind that stands in the way or is worth a look."
            : "Every night all sheets are looked through for loops, units, lifecycles, costs and more. It can be done now, too."}
        </Empty>
      ) : (
        <div className="flex min-h-0 flex-1 flex-col border-t border-ink bg-paper">
          <div
            ref={box}
            role="table"
            aria-label="Findings"
            aria-rowcount={total + 1}
            tabIndex={0}
            className="min-h-0 flex-1 overflow-y-auto"
          >
            <div
              role="row"
              aria-rowindex={1}
              className={`${GRID} sticky top-0 z-10 h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2`}
            >
              <span role="columnheader">Weight</span>
              <span role="columnheader">Where</span>
              <span role="columnheader">What is found</span>
              <span role="columnheader">To mend it</span>
              <span role="columnheader">Waiver</span>
            </div>
            <div role="rowgroup" className="relative" style={{ height: rows.getTotalSize() }}>
              {rows.getVirtualItems().map((item) => {
                const f = at(item.index);
                return (
                  <div
                    key={item.key}
                    role="row"
                    aria-rowindex={item.index + 2}
                    className={`${GRID} absolute inset-x-0 h-[34px] border-b border-hair`}
                    style={{ transform: `translateY(${item.start}px)` }}
                  >
                    {f && (
                      <>
                        <span role="cell">
                          <SeverityMark severity={f.severity} />
                        </span>
                        <span role="cell" className="truncate">
                          <Link className="text-blue hover:underline" to={placeOf(f)}>
                            <span className="pn">{f.part}</span> {f.revision}
                            {f.item !== null && `, item ${f.item}`}
                          </Link>
                        </span>
                        <span role="cell" className="truncate" title={f.message}>
                          {f.message}
                        </span>
                        <span role="cell" className="truncate text-ink-2" title={f.mend}>
                          {f.mend}
                        </span>
                        <span role="cell" className="truncate" title={f.waived?.reason}>
                          <Waive finding={f} />
                        </span>
                      </>
                    )}
                  </div>
                );
              })}
            </div>
          </div>
        </div>
      )}
    </div>
  );
}
