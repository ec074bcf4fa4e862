import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { Strokes } from "../kit/Strokes";
import { Word } from "../kit/Word";
import { answer, client } from "../lib/api";
import { day } from "../lib/number";
import { HeadPanel } from "./HeadPanel";
import { type InquiryRow, STATES } from "./states";

const GRID = "grid grid-cols-[80px_minmax(0,1.5fr)_minmax(0,1fr)_150px_170px_230px_110px] items-center gap-x-3 px-3";

/** Whole days from today to a day; below nothing where it is past. */
function daysTo(iso: string): number {
  const today = new Date().toISOString().slice(0, 10);
  return Math.round((Date.parse(iso) - Date.parse(today)) / 86_400_000);
}

function Wanted({ row }: { row: InquiryRow }) {
  if (!row.wanted_by) return <span className="text-ink-3">no day</span>;
  const days = daysTo(row.wanted_by);
  const goesOn = row.state === "work" || row.state === "waiting" || row.state === "ready";
  return (
    <span className={goesOn && days < 0 ? "font-semibold text-bad" : ""}>
      {day(row.wanted_by)}
      {goesOn && (
        <span className="text-[12px] text-ink-3">
          {" "}
          {days < 0 ? `${-days} d late` : days === 0 ? "today" : `in ${days} d`}
        </span>
      )}
    </span>
  );
}

/** What customers ask to be quoted or built, by the day an answer is wanted. */
export function InquiriesScreen() {
  const [params, setParams] = useSearchParams();
  const [closed, setClosed] = useState(false);
  const list = useQuery({
    queryKey: ["inquiries", "list", closed],
    queryFn: () => answer(client.GET("/api/inquiries", { params: { query: { closed } } })),
    staleTime: 0,
  });
  const opening = params.get("new") === "1";
  const open = (on: boolean) => setParams(on ? { new: "1" } : {}, { replace: true });
  const button = (
    <Button needs="inquiries" look="strong" onClick={() => open(true)}>
      New inquiry
    </Button>
  );
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">
          <Word of="inquiry">Inquiries</Word>
        </h1>
        <p className="text-ink-2">What customers ask, by the day they want an answer.</p>
        <label className="ml-auto flex items-center gap-1.5">
          <input type="checkbox" checked={closed} onChange={(e) => setClosed(e.target.checked)} /> also won, lost,
          dropped
        </label>
        {button}
      </div>
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data?.length === 0 && (
        <Empty title={closed ? "No inquiry yet" : "No inquiry is open"} action={button}>
          An inquiry gathers the lists, layouts and files that a customer sends. Its lines are checked, held against our
          parts, and become build sheets.
        </Empty>
      )}
      {list.data && list.data.length > 0 && (
        <div role="table" aria-label="Inquiries" className="border-t border-ink bg-paper">
          <div role="row" className={`${GRID} h-7 border-b border-hair-2 text-[12px] text-ink-2`}>
            {["Number", "What is asked", "Customer", "Answer wanted by", "State", "Lines decided", "Who has it"].map(
              (title) => (
                <span key={title} role="columnheader">
                  {title}
                </span>
              ),
            )}
          </div>
          {list.data.map((row) => (
            <div key={row.id} role="row" className={`${GRID} h-10 border-b border-hair`}>
              <span role="cell">
                <Link to={`/inquiries/${row.id}`} className="pn text-blue hover:underline">
                  {row.number}
                </Link>
              </span>
              <span role="cell" className="truncate">
                <Link to={`/inquiries/${row.id}`} className="hover:underline">
                  {row.title}
                </Link>{" "}
                <span className="text-ink-3">{row.their_reference}</span>
              </span>
              <span role="cell" className="truncate">
                {row.customer || <span className="text-ink-3">a list of our own</span>}
              </span>
              <span role="cell">
                <Wanted row={row} />
              </span>
              <span role="cell" className={row.state === "work" ? "text-blue" : "text-ink-2"}>
                {STATES[row.state]}
              </span>
              <span role="cell" className="flex items-center gap-2">
                <Strokes done={row.decided} of={row.lines} what="lines" />
                {row.stops > 0 && <span className="text-[12px] font-semibold text-bad">{row.stops} stop</span>}
              </span>
              <span role="cell" className="truncate text-ink-2">
                {row.held_by}
              </span>
            </div>
          ))}
        </div>
      )}
      {opening && <HeadPanel inquiry={null} own={params.get("own") === "1"} onClose={() => open(false)} />}
    </div>
  );
}
