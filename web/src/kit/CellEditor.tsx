import { type KeyboardEvent, useLayoutEffect, useRef, useState } from "react";

export interface Leave {
  /** Where the cursor goes once the text is kept. */
  then: "down" | "next" | "back" | "stay";
}

/** An input in a cell. Enter, Tab and leaving keep what was typed; Escape does not. */
export function CellEditor({
  label,
  start,
  fresh,
  right,
  choices,
  error,
  onKeep,
  onCancel,
}: {
  label: string;
  start: string;
  /** The text came from a key that replaces the cell, so the cursor stands behind it. */
  fresh: boolean;
  right?: boolean;
  choices?: [value: string, words: string][];
  error?: string;
  onKeep: (text: string, leave: Leave) => void;
  onCancel: () => void;
}) {
  const [text, setText] = useState(start);
  const box = useRef<HTMLInputElement & HTMLSelectElement>(null);
  const left = useRef(false);
  useLayoutEffect(() => {
    box.current?.focus();
    if (!fresh) box.current?.select?.();
  }, [fresh]);
  const keep = (then: Leave["then"]) => {
    if (left.current) return;
    left.current = true;
    onKeep(text, { then });
  };
  const press = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === "Enter" && !event.altKey) {
      event.preventDefault();
      keep("down");
    } else if (event.key === "Tab") {
      event.preventDefault();
      keep(event.shiftKey ? "back" : "next");
    } else if (event.key === "Escape") {
      left.current = true;
      onCancel();
    }
  };
  const common = {
    ref: box,
    "aria-label": label,
    "aria-invalid": !!error,
    value: text,
    onChange: (event: { target: { value: string } }) => setText(event.target.value),
    onKeyDown: press,
    onBlur: () => keep("stay"),
    className: `absolute inset-0 z-10 w-full min-w-[64px] border-2 border-blue bg-paper px-1 text-ink ${right ? "text-right" : ""}`,
  };
  return (
    <>
      {choices ? (
        <select {...common}>
          {choices.map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </select>
      ) : (
        <input {...common} />
      )}
      {error && <CellError text={error} />}
    </>
  );
}

/** Why a cell's text cannot be kept, beneath the cell that still holds it. */
export function CellError({ text }: { text: string }) {
  return (
    <span
      role="alert"
      className="absolute top-full left-0 z-20 w-[300px] border border-bad bg-bad-tint px-2 py-1 text-left whitespace-normal text-bad"
    >
      {text}
    </span>
  );
}
