import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { answer, client } from "../lib/api";
import { day, quantity } from "../lib/number";
import { type Task, TaskView } from "./TaskView";
import { useWaiting } from "./waiting";

const NAME = "who works here";

/** A work center in the shop: one thing at a time, large, for gloves and scanners. What is next stands first. */
export function AtCenterScreen() {
  const code = useParams().code ?? "";
  const [chosen, setChosen] = useState<string | null>(null);
  const [name, setName] = useState(() => localStorage.getItem(NAME) ?? "");
  const [scan, setScan] = useState("");
  const [unknown, setUnknown] = useState("");
  const waiting = useWaiting();
  const queue = useQuery({
    queryKey: ["work-orders", "at", code],
    queryFn: () => answer(client.GET("/api/shop/centers/{code}", { params: { path: { code } } })),
    refetchInterval: 20_000,
    retry: false,
  });
  const tasks = queue.data?.tasks ?? [];
  const keyOf = (t: Task) => `${t.number}-${t.sequence}`;
  const task = tasks.find((t) => keyOf(t) === chosen) ?? tasks[0];
  const find = () => {
    // A card's code is the order and the operation; anything else is said to be none of ours.
    if (!queue.data) return;
    const text = scan.trim().toUpperCase();
    const found = tasks.find((t) => keyOf(t) === text || t.number === text);
    setUnknown(found || !text ? "" : `${scan.trim()} does not wait at ${queue.data.name || code}.`);
    if (found) setChosen(keyOf(found));
    setScan("");
  };
  return (
    <div className="flex h-full flex-col overflow-y-auto text-[17px] leading-snug">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-2 bg-bar px-4 py-2 text-bar-ink">
        <Link to="/shop/at" className="flex min-h-11 items-center text-bar-quiet hover:text-white">
          ← all
        </Link>
        <h1 className="text-[20px] font-bold text-white">{queue.data?.name || code}</h1>
        <label className="ml-auto flex items-center gap-2">
          Name
          <input
            className="field !min-h-11 !w-[150px] !text-[17px]"
            value={name}
            onChange={(event) => {
              setName(event.target.value);
              localStorage.setItem(NAME, event.target.value);
            }}
          />
        </label>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            find();
          }}
        >
          <input
            className="field !min-h-11 !w-[150px] !text-[17px]"
            aria-label="Scan a card"
            placeholder="scan a card"
            value={scan}
            onChange={(event) => setScan(event.target.value)}
          />
        </form>
      </header>
      {(waiting.offline || waiting.rows.length > 0) && (
        <ul className="border-b border-hair-2 bg-brass-tint px-4 py-2" aria-label="Reports that wait">
          {waiting.rows.map((row) => (
            <li key={row.body.key} className="flex flex-wrap items-center gap-3 py-1" role="status">
              <b className="font-mono">
                {row.number}, {row.body.sequence}
              </b>
              {quantity(row.body.good)} good
              {row.refused ? (
                <>
                  <span className="text-bad">{row.refused}</span>
                  <button
                    type="button"
                    className="min-h-11 border border-hair-2 bg-paper px-4"
                    onClick={() => waiting.again(row.body.key)}
                  >
                    Send it again, as of now
                  </button>
                  <button
                    type="button"
                    className="min-h-11 border border-hair-2 bg-paper px-4"
                    onClick={() => waiting.drop(row.body.key)}
                  >
                    Let it go
                  </button>
                </>
              ) : (
                <span>{waiting.offline ? "kept here until there is a connection" : "being sent"}</span>
              )}
            </li>
          ))}
        </ul>
      )}
      {queue.error && !queue.data && (
        <p role="alert" className="p-4 text-bad">
          {queue.error.message}
        </p>
      )}
      {unknown && (
        <p role="alert" className="px-4 pt-3 text-bad">
          {unknown}
        </p>
      )}
      <div className="flex flex-1 flex-col gap-4 p-4 md:flex-row">
        {task ? (
          <TaskView
            key={keyOf(task)}
            task={task}
            center={code}
            name={name}
            onReport={(row) => {
              waiting.add(row);
              setChosen(null);
            }}
          />
        ) : (
          queue.data && <p className="text-[20px]">Nothing waits here.</p>
        )}
        <nav aria-label="What waits here" className="md:w-[290px]">
          <h2 className="pb-2 font-semibold">What waits here</h2>
          <ul className="flex flex-col gap-2">
            {tasks.map((t) => (
              <li key={keyOf(t)}>
                <button
                  type="button"
                  aria-current={t === task}
                  className={`flex min-h-[64px] w-full flex-col justify-center border px-3 py-1.5 text-left ${t === task ? "border-2 border-blue bg-blue-tint" : "border-hair-2 bg-paper"}`}
                  onClick={() => {
                    setChosen(keyOf(t));
                    setUnknown("");
                  }}
                >
                  <span>
                    <b className="font-mono">{t.number}</b> {t.sequence || ""} {t.name}
                  </span>
                  <span className={Number(t.here) > 0 ? "text-ink-2" : "text-ink-3"}>
                    {t.begun
                      ? `begun by ${t.begun_by}`
                      : Number(t.here) > 0
                        ? `${quantity(t.here)} here`
                        : "nothing here yet"}
                    {t.wanted && `, wanted ${day(t.wanted)}`}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </nav>
      </div>
    </div>
  );
}
