import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime } from "../lib/number";
import { useUntrue } from "../lib/untrue";

type HooksOut = Schemas["HooksOut"];

/** Which places outside are told what happens, and what became of each telling. */
export function Hooks() {
  const [making, setMaking] = useState(false);
  const untrue = useUntrue();
  const say = useSay();
  const list = useQuery({ queryKey: ["hooks"], queryFn: () => answer(client.GET("/api/hooks")), staleTime: 0 });
  const settled = {
    onSuccess: () => untrue("hook"),
    onError: (error: Refusal) => say(error.message, { bad: true }),
  };
  const drop = useMutation<HooksOut, Refusal, number>({
    mutationFn: (hook_id) => answer(client.POST("/api/hooks/{hook_id}/drop", { params: { path: { hook_id } } })),
    ...settled,
  });
  const again = useMutation<HooksOut, Refusal, number>({
    mutationFn: (telling_id) =>
      answer(client.POST("/api/hooks/tellings/{telling_id}/again", { params: { path: { telling_id } } })),
    ...settled,
  });
  const { hooks = [], tellings = [], places = [] } = list.data ?? {};
  return (
    <section aria-label="What programs are told" className="border-t border-ink bg-paper px-3 py-2">
      <div className="flex items-center gap-3">
        <h2 className="text-[16px] font-semibold">What they are told</h2>
        <Button needs="hooks" disabled={places.length === 0} onClick={() => setMaking(true)}>
          Have a program told
        </Button>
        {list.data && places.length === 0 && (
          <span className="text-ink-3">
            No place may be told yet: an administrator names them in the file of services.
          </span>
        )}
      </div>
      {hooks.map((h) => (
        <p key={h.id} className="flex items-baseline gap-2 border-b border-hair py-1">
          <span className="min-w-0 flex-1">
            <b className="font-semibold">{h.name}</b> at {h.place}: {h.events.join(", ")}
            <span className="text-[12px] text-ink-3">
              {" "}
              by {h.made_by}, {dayAndTime(h.made_at)}
            </span>
          </span>
          <Button look="quiet" needs="hooks" className="!min-h-0" onClick={() => drop.mutate(h.id)}>
            Tell it no more
          </Button>
        </p>
      ))}
      {tellings.length > 0 && (
        <table className="mt-3 w-full">
          <thead>
            <tr className="border-b border-hair-2 text-left text-[12px] text-ink-3">
              {["when", "who", "what", "", "answered", ""].map((title, at) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a heading is its place
                <th key={at} className="pr-3 font-normal">
                  {title || <span className="sr-only">{at === 3 ? "state" : "once more"}</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {tellings.map((t) => (
              <tr key={t.id} className="border-b border-hair align-top" title={JSON.stringify(t.body)}>
                <td className="py-1 pr-3 whitespace-nowrap">{dayAndTime(t.made_at)}</td>
                <td className="py-1 pr-3">{t.hook}</td>
                <td className="py-1 pr-3">{t.event}</td>
                <td
                  className={`py-1 pr-3 whitespace-nowrap ${t.state === "told" ? "" : t.state === "waiting" ? "text-brass" : "text-bad"}`}
                >
                  {t.state}
                  {t.tries > 1 && `, ${t.tries} tries`}
                </td>
                <td className="py-1 pr-3 text-ink-2">
                  {t.answer}
                  {t.next_at && `; again ${dayAndTime(t.next_at)}`}
                </td>
                <td className="py-1 text-right">
                  <Button look="quiet" needs="hooks" className="!min-h-0" onClick={() => again.mutate(t.id)}>
                    Once more
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {making && list.data && <Make all={list.data} onClose={() => setMaking(false)} />}
    </section>
  );
}

function Make({ all, onClose }: { all: HooksOut; onClose: () => void }) {
  const untrue = useUntrue();
  const [name, setName] = useState("");
  const [place, setPlace] = useState(all.places[0]?.name ?? "");
  const [events, setEvents] = useState<string[]>([]);
  const make = useMutation<HooksOut, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/hooks", { body: { name, place, events } })),
    onSuccess: () => {
      untrue("hook");
      onClose();
    },
  });
  return (
    <Panel
      title="Have a program told"
      note="Each telling is signed; what is not taken is tried again, five times within a day."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <Field label="What it is for" error={make.error?.of("name")}>
          {(props) => (
            <input
              {...props}
              autoFocus
              value={name}
              onChange={(event) => setName(event.target.value)}
              className="h-8 border border-hair-2 bg-paper px-2"
            />
          )}
        </Field>
        <Field label="Where" error={make.error?.of("place")}>
          {(props) => (
            <select
              {...props}
              value={place}
              onChange={(event) => setPlace(event.target.value)}
              className="h-8 border border-hair-2 bg-paper px-2"
            >
              {all.places.map((p) => (
                <option key={p.name} value={p.name}>
                  {p.name}, {p.words}
                </option>
              ))}
            </select>
          )}
        </Field>
        <fieldset>
          <legend className="text-ink-2">When</legend>
          {all.events.map((e) => (
            <label key={e.name} className="flex min-h-[30px] items-center gap-2">
              <input
                type="checkbox"
                checked={events.includes(e.name)}
                onChange={() =>
                  setEvents(events.includes(e.name) ? events.filter((x) => x !== e.name) : [...events, e.name])
                }
              />
              {e.means}
            </label>
          ))}
        </fieldset>
        {make.error && make.error.problems.length === 0 && (
          <p role="alert" className="text-bad">
            {make.error.message}
          </p>
        )}
        <span>
          <Button type="submit" look="strong" disabled={!name.trim() || events.length === 0 || make.isPending}>
            Tell it from now on
          </Button>
        </span>
      </form>
    </Panel>
  );
}
