import { useState } from "react";
import { PartEditor } from "../kit/PartEditor";
import { useSay } from "../kit/Says";
import { type Subject, useRefusal } from "../lib/session";

/** A part that exists, chosen by its number or by words; `needs`: who may not write that subject is told so. */
export function PartChoice({
  label,
  value,
  onKeep,
  needs,
}: {
  label: string;
  value: string;
  onKeep: (number: string) => void;
  needs?: Subject;
}) {
  const [editing, setEditing] = useState(false);
  const refusal = useRefusal(needs);
  const say = useSay();
  return (
    <div className="relative h-[30px] w-[200px]">
      {editing ? (
        <PartEditor
          start={value}
          fresh={false}
          known
          onKeep={(number) => {
            setEditing(false);
            onKeep(number.trim().toUpperCase());
          }}
          onCancel={() => setEditing(false)}
        />
      ) : (
        <button
          type="button"
          aria-label={`${label}: ${value || "choose"}`}
          aria-disabled={!!refusal}
          title={refusal}
          className="pn h-[30px] w-full rounded-[3px] border border-hair-2 bg-paper px-2 text-left hover:border-blue aria-disabled:cursor-not-allowed aria-disabled:opacity-50"
          onClick={() => (refusal ? say(refusal, { bad: true }) : setEditing(true))}
        >
          {value || <span className="text-ink-3">{label.toLowerCase()}</span>}
        </button>
      )}
    </div>
  );
}
