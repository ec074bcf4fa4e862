import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day } from "../lib/number";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";

/** The days on which no work center works: typed, or chosen from the public holidays of a country. */
export function ClosedDays({ onClose }: { onClose: () => void }) {
  const held = useQuery({
    queryKey: ["closed-days"],
    queryFn: () => answer(client.GET("/api/work-centers/closed-days")),
    staleTime: 0,
  });
  if (!held.data)
    return (
      <Panel title="Closed days" note={held.error?.message ?? "…"} open onClose={onClose}>
        {null}
      </Panel>
    );
  return <Days held={held.data.days} onClose={onClose} />;
}

function Days({ held, onClose }: { held: string[]; onClose: () => void }) {
  const [days, setDays] = useState(held);
  const [country, setCountry] = useState("");
  const [year, setYear] = useState(String(new Date().getFullYear() + 1));
  const may = useMay("work centers");
  const say = useSay();
  const untrue = useUntrue();
  const offer = useMutation<Schemas["PublicHoliday"][], Refusal, void>({
    mutationFn: () =>
      answer(
        client.GET("/api/work-centers/public-holidays", {
          params: { query: { country: country.trim(), year: Number(year) || 0 } },
        }),
      ),
  });
  const save = useMutation<Schemas["ClosedDays"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/work-centers/closed-days", { body: { days } })),
    onSuccess: (now) => {
      say(`${now.days.length} closed days are kept.`);
      untrue("closed days");
      onClose();
    },
  });
  const add = (iso: string) => iso && setDays((old) => [...new Set([...old, iso])].sort());
  const same = JSON.stringify(days) === JSON.stringify(held);
  return (
    <Panel
      title="Closed days"
      note="No work center works on them; what waits or is on its way goes on."
      open
      onClose={onClose}
    >
      <div className="mt-3 flex min-h-0 flex-1 flex-col gap-3">
        {may && (
          <Field label="Add a day">
            {(p) => <DayField key={days.length} {...p} value="" placeholder="25 Dec 2026" onKeep={add} />}
          </Field>
        )}
        {may && (
          <form
            className="grid grid-cols-[1fr_1fr_auto] items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              offer.mutate();
            }}
          >
            <Field label="Public holidays of" error={offer.error?.message}>
              {(p) => (
                <input
                  {...p}
                  className="field"
                  placeholder="two letters, like NL"
                  value={country}
                  onChange={(e) => setCountry(e.target.value)}
                />
              )}
            </Field>
            <Field label="in">
              {(p) => <input {...p} className="field" value={year} onChange={(e) => setYear(e.target.value)} />}
            </Field>
            <Button type="submit" disabled={!country.trim() || offer.isPending}>
              Offer
            </Button>
          </form>
        )}
        {offer.data && (
          <ul className="max-h-[200px] shrink-0 overflow-y-auto border-t border-hair">
            {offer.data.map((h) => (
              <li key={h.day}>
                <label className="flex items-center gap-2 border-b border-hair py-0.5">
                  <input
                    type="checkbox"
                    checked={days.includes(h.day)}
                    onChange={() => (days.includes(h.day) ? setDays(days.filter((d) => d !== h.day)) : add(h.day))}
                  />
                  <span className="w-[96px]">{day(h.day)}</span>
                  <span className="truncate text-ink-2">{h.name}</span>
                </label>
              </li>
            ))}
          </ul>
        )}
        <ul aria-label="Closed days" className="min-h-0 flex-1 overflow-y-auto border-t border-ink">
          {days.map((iso) => (
            <li key={iso} className="flex items-center border-b border-hair py-0.5">
              {day(iso)}
              <Button
                needs="work centers"
                look="quiet"
                className="ml-auto !min-h-[24px]"
                aria-label={`take away ${day(iso)}`}
                onClick={() => setDays(days.filter((d) => d !== iso))}
              >
                take away
              </Button>
            </li>
          ))}
          {days.length === 0 && <li className="py-1 text-ink-3">none yet</li>}
        </ul>
        {save.error && (
          <p role="alert" className="text-bad">
            {save.error.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button needs="work centers" look="strong" disabled={same || save.isPending} onClick={() => save.mutate()}>
            Keep these days
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            {may ? "Leave without saving" : "Close"}
          </Button>
        </div>
      </div>
    </Panel>
  );
}
