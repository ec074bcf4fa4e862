import { useEffect, useState } from "react";
import { day, readDay } from "../lib/number";

/**
 * A day, written out so that no reader takes the month for the day. Takes "25 Nov 2026", "2026-11-25" or "25.11.2026";
 * the up and down keys step from day to day.
 */
export function DayField({
  value,
  onKeep,
  className = "field",
  placeholder,
  ...props
}: {
  /** ISO 8601, or empty. */
  value: string;
  onKeep: (iso: string) => void;
  className?: string;
  /** What no day means. */
  placeholder?: string;
  disabled?: boolean;
  id?: string;
  "aria-label"?: string;
  "aria-invalid"?: boolean;
  "aria-describedby"?: string;
}) {
  const shown = value ? day(value) : "";
  const [text, setText] = useState(shown);
  const [bad, setBad] = useState(false);
  useEffect(() => setText(shown), [shown]);
  const keep = (typed: string) => {
    const iso = typed.trim() === "" ? "" : readDay(typed);
    setBad(iso === null);
    if (iso === null) return;
    setText(iso ? day(iso) : "");
    if (iso !== value) onKeep(iso);
  };
  return (
    <>
      <input
        {...props}
        type="text"
        autoComplete="off"
        placeholder={placeholder}
        className={className}
        value={text}
        aria-invalid={bad || props["aria-invalid"]}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => text !== shown && keep(text)}
        onKeyDown={(event) => {
          if (event.key === "Enter") keep(text);
          if (event.key === "Escape") {
            setText(shown);
            setBad(false);
          }
          const step = { ArrowUp: 1, ArrowDown: -1 }[event.key];
          const from = readDay(text);
          if (step && from) {
            event.preventDefault();
            const next = new Date(`${from}T12:00:00Z`);
            next.setUTCDate(next.getUTCDate() + step);
            keep(next.toISOString().slice(0, 10));
          }
        }}
      />
      {bad && (
        <span role="alert" className="text-[12px] text-bad">
          Write a day like 25 Nov 2026 or 2026-11-25
        </span>
      )}
    </>
  );
}
