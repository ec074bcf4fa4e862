import { useRef } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import type { Schemas } from "../lib/api";

export type Stop = Schemas["StopOut"] & { key: number };

/** Planned stops: from a moment up to another, nobody works at this work center. */
export function Stops({
  stops,
  wrong,
  may,
  onChange,
}: {
  stops: Stop[];
  wrong: (place: string) => string | undefined;
  may: boolean;
  onChange: (stops: Stop[]) => void;
}) {
  const keys = useRef(stops.length);
  const set = (key: number, next: Partial<Stop>) =>
    onChange(stops.map((stop) => (stop.key === key ? { ...stop, ...next } : stop)));
  return (
    <fieldset className="flex flex-col gap-1.5">
      <legend className="pb-1 font-semibold text-ink-2">Planned stops</legend>
      {stops.map((stop, index) => {
        const said = ["start", "end", "reason"].flatMap((name) => wrong(`stops[${index}].${name}`) ?? []);
        return (
          <div key={stop.key} className="flex flex-col gap-1 border-t border-hair pt-1.5">
            <div className="grid grid-cols-2 gap-1.5">
              {(["start", "end"] as const).map((name) => (
                <span key={name} className="flex min-w-0 items-center gap-1 text-[12px] text-ink-2">
                  <span className="w-8">{name === "start" ? "from" : "up to"}</span>
                  <DayField
                    className="field !min-h-[28px] !w-[104px] !px-1.5"
                    aria-label={`Stop ${index + 1}, ${name === "start" ? "first day" : "last day"}`}
                    aria-invalid={!!wrong(`stops[${index}].${name}`)}
                    placeholder="7 Dec 2026"
                    disabled={!may}
                    value={stop[name].slice(0, 10)}
                    onKeep={(iso) => set(stop.key, { [name]: iso && `${iso}T${stop[name].slice(11) || "00:00"}` })}
                  />
                  <input
                    className="field !min-h-[28px] !w-[56px] !px-1.5"
                    aria-label={`Stop ${index + 1}, ${name === "start" ? "begins at" : "ends at"}`}
                    placeholder="00:00"
                    disabled={!may || !stop[name]}
                    value={stop[name].slice(11)}
                    onChange={(event) => set(stop.key, { [name]: `${stop[name].slice(0, 10)}T${event.target.value}` })}
                  />
                </span>
              ))}
            </div>
            <div className="flex gap-2">
              <input
                className="field !min-h-[28px]"
                aria-label={`Stop ${index + 1}, why`}
                placeholder="why: upkeep, moving, stock-taking"
                disabled={!may}
                value={stop.reason}
                onChange={(event) => set(stop.key, { reason: event.target.value })}
              />
              <Button
                needs="work centers"
                look="quiet"
                className="!min-h-[24px]"
                aria-label={`take away stop ${index + 1}`}
                onClick={() => onChange(stops.filter((other) => other.key !== stop.key))}
              >
                take away
              </Button>
            </div>
            {said.map((words) => (
              <span key={words} role="alert" className="block text-[12px] text-bad">
                {words}
              </span>
            ))}
          </div>
        );
      })}
      <Button
        needs="work centers"
        className="self-start"
        onClick={() => onChange([...stops, { key: keys.current++, start: "", end: "", reason: "" }])}
      >
        Add a stop
      </Button>
    </fieldset>
  );
}
