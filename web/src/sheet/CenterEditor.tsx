import { useId, useLayoutEffect, useRef, useState } from "react";
import type { WorkCenterOut } from "../lib/api";
import { holds } from "../lib/words";
import { CellError, type Leave } from "./CellEditor";
import { OUTSIDE } from "./edits";

/** Choose a work center by its code or its name, or that it is done outside; typing narrows what is offered. */
export function CenterEditor({
  centers: known,
  start,
  fresh,
  error,
  onKeep,
  onCancel,
}: {
  centers: WorkCenterOut[];
  start: string;
  /** The text came from a key that replaces the cell, so the cursor stands behind it. */
  fresh: boolean;
  error?: string;
  onKeep: (code: string, leave: Leave) => void;
  onCancel: () => void;
}) {
  const centers = [...known, { code: OUTSIDE, name: "by a supplier" }];
  const [text, setText] = useState(start);
  const [touched, setTouched] = useState(fresh);
  const [moved, setMoved] = useState<number | null>(null);
  const [refused, setRefused] = useState(error);
  const box = useRef<HTMLInputElement>(null);
  const left = useRef(false);
  const list = useId();
  const [upward, setUpward] = useState(false);
  useLayoutEffect(() => {
    box.current?.focus();
    if (!fresh) box.current?.select();
    // On the last rows of the screen the list would be cut off below.
    setUpward((box.current?.getBoundingClientRect().bottom ?? 0) > window.innerHeight - 270);
  }, [fresh]);
  const clean = text.trim().toUpperCase();
  // What was typed in full, or begins the code, stands first.
  const rank = (code: string) => (code.toUpperCase() === clean ? 0 : code.toUpperCase().startsWith(clean) ? 1 : 2);
  const offers =
    touched && clean
      ? centers.filter((c) => holds(clean, c.code, c.name)).sort((a, b) => rank(a.code) - rank(b.code))
      : centers;
  const exact = centers.find((c) => c.code.toUpperCase() === clean);
  const at = moved ?? (touched && clean ? 0 : exact ? offers.indexOf(exact) : -1);
  const keep = (then: Leave["then"], code: string | undefined) => {
    if (left.current) return;
    if (!code && then !== "stay") {
      setRefused(clean ? `There is no work center ${text.trim()}.` : "Choose a work center.");
      return;
    }
    left.current = true;
    if (code) onKeep(code, { then });
    else onCancel();
  };
  return (
    <>
      <input
        ref={box}
        role="combobox"
        aria-label="Work center"
        aria-expanded={offers.length > 0}
        aria-controls={list}
        aria-activedescendant={offers[at] ? `${list}-${at}` : undefined}
        aria-invalid={!!refused}
        autoComplete="off"
        placeholder="choose a work center"
        className="absolute inset-0 z-10 w-full min-w-[150px] border-2 border-blue bg-paper px-1 text-ink"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setTouched(true);
          setMoved(null);
          setRefused(undefined);
        }}
        onBlur={() => keep("stay", exact?.code)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "ArrowDown" || event.key === "ArrowUp") {
            event.preventDefault();
            setMoved(Math.max(0, Math.min(offers.length - 1, at + (event.key === "ArrowDown" ? 1 : -1))));
          } else if (event.key === "Enter" && !event.altKey) {
            event.preventDefault();
            keep("down", offers[at]?.code);
          } else if (event.key === "Tab") {
            event.preventDefault();
            keep(event.shiftKey ? "back" : "next", offers[at]?.code);
          } else if (event.key === "Escape") {
            left.current = true;
            onCancel();
          }
        }}
      />
      {refused ? (
        <CellError text={refused} />
      ) : (
        offers.length > 0 && (
          <div
            id={list}
            role="listbox"
            aria-label="Work centers"
            className={`absolute left-0 z-20 w-[320px] text-ink ${upward ? "bottom-full" : "top-full"} max-h-[250px] overflow-y-auto border border-hair-2 bg-paper py-1 shadow-lg`}
          >
            {offers.map((offer, index) => (
              <div
                key={offer.code}
                id={`${list}-${index}`}
                role="option"
                tabIndex={-1}
                aria-selected={index === at}
                className={`flex cursor-pointer gap-3 px-2 py-1 ${index === at ? "bg-blue-tint" : ""}`}
                onMouseDown={(event) => {
                  event.preventDefault();
                  keep("next", offer.code);
                }}
              >
                <span className="pn w-[96px] shrink-0 truncate">{offer.code}</span>
                <span className="truncate text-ink-2">{offer.name}</span>
              </div>
            ))}
          </div>
        )
      )}
    </>
  );
}
