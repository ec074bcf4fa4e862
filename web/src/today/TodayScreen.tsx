import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { answer, client, type Schemas } from "../lib/api";
import { useSession } from "../lib/session";

type Heap = Schemas["HeapOut"];

/** What waits for the person who is signed in, each row leading to where it is done. */
export function TodayScreen() {
  const today = useQuery({ queryKey: ["today"], queryFn: () => answer(client.GET("/api/today")), staleTime: 0 });
  const session = useSession().data;
  const { heaps = [], steps = [] } = today.data ?? {};
  return (
    <div className="h-full overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex items-baseline gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">Today</h1>
        <span className="text-ink-2">
          {new Date().toLocaleDateString("en-GB", { weekday: "long", day: "numeric", month: "long" })}
          {session?.name ? `, ${session.name}` : ""}
        </span>
      </div>
      {today.error && (
        <p role="alert" className="text-bad">
          {today.error.message}
        </p>
      )}
      {steps.length > 0 && <Guide steps={steps} />}
      <div className="columns-2 gap-6">
        {heaps.map((heap) => heap.rows.length > 0 && <HeapList key={heap.title} heap={heap} />)}
      </div>
      <p className="pt-1 text-ink-3">
        {heaps
          .filter((heap) => heap.rows.length === 0)
          .map((heap) => heap.empty)
          .join(" ")}
      </p>
    </div>
  );
}

function HeapList({ heap }: { heap: Heap }) {
  const more = heap.total - heap.rows.length;
  return (
    <section aria-label={heap.title} className="mb-5 break-inside-avoid">
      <h2 className="flex items-baseline gap-2 border-b border-ink pb-1 font-semibold">
        {heap.title}
        <span className="font-normal text-ink-3">
          {heap.total || ""}
          {heap.all_counted ? "" : "+"}
        </span>
        {heap.to && (
          <Link to={heap.to} className="ml-auto text-[12px] font-normal text-blue hover:underline">
            {more > 0 && heap.all_counted ? `${more} more` : "all of them"}
          </Link>
        )}
      </h2>
      <ul className="bg-paper">
        {heap.rows.map((row) => (
          <li key={`${row.name} ${row.what}`}>
            <Link
              to={row.to}
              className="grid grid-cols-[minmax(90px,auto)_1fr_auto] items-baseline gap-3 border-b border-hair px-2 py-1 outline-offset-[-2px] hover:bg-blue-tint"
            >
              <span className="pn text-blue">{row.name}</span>
              <span className="truncate" title={row.what}>
                {row.what}
              </span>
              <span className={`text-right text-[12px] ${row.urgent ? "font-semibold text-bad" : "text-ink-2"}`}>
                {row.more}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The way from an empty workspace to a first cost; the step that is next stands out. */
function Guide({ steps }: { steps: Schemas["StepOut"][] }) {
  const next = steps.findIndex((step) => !step.done);
  const link = useRef<HTMLAnchorElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another step is another link
  useEffect(() => link.current?.focus(), [next]);
  return (
    <section aria-label="First steps" className="mb-5 border-y border-ink bg-paper px-4 py-3">
      <h2 className="pb-2 font-semibold">From nothing to a first cost</h2>
      <ol className="grid grid-cols-4 gap-5">
        {steps.map((step, index) => (
          <li key={step.what} className={step.done ? "text-ink-3" : ""}>
            <span className="mr-1.5 text-ink-3">{step.done ? "done" : `${index + 1}`}</span>
            {index === next ? (
              <Link ref={link} to={step.to} className="font-semibold text-blue underline">
                {step.what}
              </Link>
            ) : (
              <span className={step.done ? "line-through" : ""}>{step.what}</span>
            )}
            <p className="text-[12px] text-ink-2">{step.why}</p>
          </li>
        ))}
      </ol>
    </section>
  );
}
