import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import ReactMarkdown from "react-markdown";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime, minutes, quantity, typed } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { Counter } from "./Counter";
import type { Waiting } from "./waiting";

export type Task = Schemas["TaskOut"];

const WHY = ["tool mark", "out of tolerance", "dropped", "material"];

/** One operation at a work center: what to do, what to take, and what came of it. */
export function TaskView({
  task,
  center,
  name,
  onReport,
}: {
  task: Task;
  center: string;
  name: string;
  onReport: (row: Waiting) => void;
}) {
  const [good, setGood] = useState(0);
  const [scrapped, setScrapped] = useState(0);
  const [why, setWhy] = useState("");
  const [setup, setSetup] = useState("");
  const [run, setRun] = useState("");
  const [more, setMore] = useState<Record<number, number>>({});
  const key = useRef(crypto.randomUUID());
  const untrue = useUntrue();
  const begin = useMutation<Schemas["Begun"], Refusal, boolean>({
    mutationFn: (begins) =>
      answer(
        client.POST("/api/shop/orders/{order_id}/begin", {
          params: { path: { order_id: task.order } },
          body: { sequence: task.sequence, begins, done_by: name, center },
        }),
      ),
    onSuccess: () => untrue("work order"),
  });
  const since = useSince(task.begun);
  const here = Number(task.here);
  const beyond = good + scrapped > here;
  const units = good + scrapped > 0 || setup.trim() !== "" || run.trim() !== "";
  const report = () =>
    onReport({
      order: task.order,
      number: task.number,
      body: {
        key: key.current,
        sequence: task.sequence,
        good: String(good),
        scrapped: String(scrapped),
        setup_minutes: typed(setup) || "0",
        // Whoever began here and typed nothing has worked since then.
        run_minutes: typed(run) || (since && !setup.trim() ? String(since) : "0"),
        reason: why,
        beyond,
        more: Object.entries(more)
          .filter(([, n]) => n > 0)
          .map(([row, n]) => ({ row: Number(row), quantity: String(n) })),
        codes: [],
        at: new Date().toISOString(),
        done_by: name,
        center,
      },
    });
  return (
    <section aria-label="The operation" className="min-w-0 flex-1 border border-hair-2 bg-paper p-4">
      <p className="text-ink-2">
        <b className="font-mono text-ink">{task.number}</b> {task.part} {task.description}, operation {task.place} of{" "}
        {task.of}
      </p>
      <h2 className="pt-1 text-[26px] leading-tight font-bold">{task.name || "Make"}</h2>
      <p className="pt-1">
        <b>{quantity(task.here)}</b> {task.unit} here, {quantity(task.planned)} in all
        {Number(task.good) > 0 && `, ${quantity(task.good)} good so far`}.{" "}
        <span className="text-ink-2">
          {Number(task.setup_minutes) > 0 ? `Set-up ${minutes(task.setup_minutes)}, run ` : "Run "}
          {minutes(task.run_minutes)}.{task.any_of && ` Any work center of ${task.any_of} may take it up.`}
        </span>
      </p>
      {task.begun ? (
        <p className="flex flex-wrap items-center gap-3 pt-3">
          <span className="text-blue">
            Begun {dayAndTime(task.begun)} by {task.begun_by}
          </span>
          <button type="button" className="min-h-12 border border-hair-2 px-4" onClick={() => begin.mutate(false)}>
            Leave it
          </button>
        </p>
      ) : (
        <button
          type="button"
          className="mt-3 min-h-14 border-2 border-blue px-8 text-[19px] font-semibold text-blue"
          onClick={() => begin.mutate(true)}
        >
          Begin
        </button>
      )}
      {begin.error && (
        <p role="alert" className="pt-1 text-bad">
          {begin.error.problems[0]?.message ?? begin.error.message}
        </p>
      )}
      {(task.instructions || task.files.length > 0) && (
        <div className="prose mt-4 border-t border-hair pt-3">
          <ReactMarkdown>{task.instructions}</ReactMarkdown>
          <div className="flex flex-wrap gap-3 pt-2">
            {task.files.map((file) => (
              <Shown key={file.id} id={file.id} name={file.name} />
            ))}
          </div>
        </div>
      )}
      {task.takes.length > 0 && (
        <table className="mt-4 w-full border-t border-hair">
          <tbody>
            {task.takes.map((t) => (
              <tr key={t.row} className="border-b border-hair">
                <td className="py-2 pr-3 font-mono">{t.part}</td>
                <td className="pr-3 text-ink-2 max-sm:hidden">{t.description}</td>
                <td className="pr-3 text-right whitespace-nowrap">
                  {quantity(t.quantity)} {t.unit}
                </td>
                <td className="w-[1%] whitespace-nowrap">
                  <button
                    type="button"
                    className="min-h-11 border border-hair-2 px-3"
                    aria-label={`One more ${t.part}`}
                    onClick={() => setMore({ ...more, [t.row]: (more[t.row] ?? 0) + 1 })}
                  >
                    {more[t.row] ? `+${more[t.row]} taken` : "one more"}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="mt-4 flex flex-wrap gap-6 border-t border-ink pt-4">
        <Counter label="Good" value={good} most={here} onChange={setGood} />
        <Counter label="Scrap" value={scrapped} bad onChange={setScrapped} />
        <div className="flex gap-3">
          {(
            [
              ["Set-up, min", setup, setSetup],
              ["Run, min", run, setRun],
            ] as const
          ).map(([label, value, set]) => (
            <label key={label} className="flex flex-col gap-1">
              {label}
              <input
                className="field !min-h-14 !w-[110px] !text-[20px]"
                inputMode="decimal"
                placeholder={label.startsWith("Run") && since ? String(since) : ""}
                value={value}
                onChange={(event) => set(event.target.value)}
              />
            </label>
          ))}
        </div>
      </div>
      {(scrapped > 0 || beyond) && (
        <div className="mt-4 flex flex-wrap items-center gap-2">
          <span className={why ? "" : "font-semibold text-bad"}>{beyond ? "Why more than came?" : "Why scrap?"}</span>
          {!beyond &&
            WHY.map((word) => (
              <button
                key={word}
                type="button"
                aria-pressed={why === word}
                className={`min-h-12 border px-4 ${why === word ? "border-2 border-blue bg-blue-tint" : "border-hair-2"}`}
                onClick={() => setWhy(word)}
              >
                {word}
              </button>
            ))}
          <input
            className="field !min-h-12 !w-[220px] !text-[17px]"
            aria-label="Why, in words"
            value={why}
            onChange={(event) => setWhy(event.target.value)}
          />
        </div>
      )}
      <button
        type="button"
        className="mt-5 min-h-16 w-full bg-blue px-6 text-[21px] font-bold text-paper aria-disabled:opacity-50"
        aria-disabled={!units || ((scrapped > 0 || beyond) && !why.trim())}
        onClick={() => units && !((scrapped > 0 || beyond) && !why.trim()) && report()}
      >
        Report {good} good{scrapped > 0 && `, ${scrapped} scrap`}
      </button>
    </section>
  );
}

/** Whole minutes since something was begun. */
function useSince(begun: string | null): number {
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now()), 15_000);
    return () => window.clearInterval(timer);
  }, []);
  return begun ? Math.max(0, Math.round((now - new Date(begun).getTime()) / 60_000)) : 0;
}

/** A picture or a video in place; anything else opens beside. */
function Shown({ id, name }: { id: number; name: string }) {
  const source = `/api/parts/files/${id}`;
  if (/\.(png|jpe?g|webp|gif)$/i.test(name))
    return <img src={source} alt={name} className="max-h-[260px] max-w-full" />;
  if (/\.(mp4|webm)$/i.test(name))
    return (
      // biome-ignore lint/a11y/useMediaCaption: what the shop films has none
      <video src={source} controls className="max-h-[260px] max-w-full" />
    );
  return (
    <a className="flex min-h-11 items-center text-blue underline" href={source} target="_blank" rel="noreferrer">
      {name}
    </a>
  );
}
