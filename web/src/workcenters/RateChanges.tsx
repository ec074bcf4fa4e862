import { useRef } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import type { Schemas } from "../lib/api";
import { typed } from "../lib/number";

export type RateChange = Schemas["RateOut"] & { key: number };

const COLUMNS = [
  ["labor_rate", "labor"],
  ["setup_labor_rate", "set-up"],
  ["machine_rate", "machine"],
  ["overhead_per_hour", "overhead"],
  ["overhead_percent_of_labor", "% of labor"],
] as const;

/** Rates that hold from a day on. What is left empty stays as it was; the day of the basis picks them. */
export function RateChanges({
  rates,
  wrong,
  may,
  onChange,
}: {
  rates: RateChange[];
  wrong: (place: string) => string | undefined;
  may: boolean;
  onChange: (rates: RateChange[]) => void;
}) {
  const keys = useRef(rates.length);
  const set = (key: number, next: Partial<RateChange>) =>
    onChange(rates.map((rate) => (rate.key === key ? { ...rate, ...next } : rate)));
  return (
    <fieldset className="flex flex-col gap-1.5">
      <legend className="pb-1 font-semibold text-ink-2">Rates that change on a day</legend>
      {rates.map((rate, index) => {
        const said = ["first_day", ...COLUMNS.map(([name]) => name)].flatMap(
          (name) => wrong(`rates[${index}].${name}`) ?? [],
        );
        return (
          <div key={rate.key} className="border-t border-hair pt-1.5">
            <div className="flex items-center gap-2">
              from
              <DayField
                className="field !min-h-[28px] !w-[120px]"
                aria-label={`First day of change ${index + 1}`}
                placeholder="1 Jan 2027"
                disabled={!may}
                value={rate.first_day}
                onKeep={(iso) => set(rate.key, { first_day: iso })}
              />
              <Button
                needs="work centers"
                look="quiet"
                className="ml-auto !min-h-[24px]"
                aria-label={`take away change ${index + 1}`}
                onClick={() => onChange(rates.filter((other) => other.key !== rate.key))}
              >
                take away
              </Button>
            </div>
            <div className="grid grid-cols-5 gap-1.5 pt-1">
              {COLUMNS.map(([name, label]) => (
                <label key={name} className="flex min-w-0 flex-col text-[12px] text-ink-2">
                  {label}
                  <input
                    className="field !min-h-[28px] !px-1.5 text-right"
                    inputMode="decimal"
                    aria-label={`${label}, change ${index + 1}`}
                    aria-invalid={!!wrong(`rates[${index}].${name}`)}
                    placeholder="stays"
                    disabled={!may}
                    value={rate[name] ?? ""}
                    onChange={(event) => set(rate.key, { [name]: event.target.value || null })}
                    onBlur={(event) => set(rate.key, { [name]: typed(event.target.value) || null })}
                  />
                </label>
              ))}
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
        onClick={() =>
          onChange([
            ...rates,
            {
              key: keys.current++,
              first_day: "",
              labor_rate: null,
              setup_labor_rate: null,
              machine_rate: null,
              overhead_per_hour: null,
              overhead_percent_of_labor: null,
            },
          ])
        }
      >
        Add a change
      </Button>
    </fieldset>
  );
}
