import { useState } from "react";
import { PartEditor } from "../kit/PartEditor";

/** A part that exists, chosen by its number or by words. */
export function PartChoice({
  label,
  value,
  onKeep,
}: {
  label: string;
  value: string;
  onKeep: (number: string) => void;
}) {
  const [editing, setEditing] = useState(false);
  return (
    <div className="relative h-8 w-[200px]">
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
          className="pn h-8 w-full border border-hair-2 bg-paper px-2 text-left hover:border-blue"
          onClick={() => setEditing(true)}
        >
          {value || <span className="text-ink-3">{label.toLowerCase()}</span>}
        </button>
      )}
    </div>
  );
}
