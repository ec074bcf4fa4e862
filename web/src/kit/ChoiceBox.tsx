import { useId, useLayoutEffect, useRef, useState } from "react";
import { CellError, type Leave } from "./CellEditor";

export interface Choice {
  key: string;
  /** A number or code; what it is. */
  name: string;
  words: string;
  /** Choosing it makes something new. */
  makes?: boolean;
}

/** As wide as a list is at least, in pixels. */
const LEAST = 260;

/** Where what an element hangs out of is cut off at its right. */
function rightEdge(element: HTMLElement): number {
  for (let at = element.parentElement; at; at = at.parentElement)
    if (getComputedStyle(at).overflowX !== "visible") return at.getBoundingClientRect().right;
  return window.innerWidth;
}

/** A cell that is filled by typing and choosing among what is offered; the editors say what that is and what it means. */
export function ChoiceBox({
  label,
  listLabel,
  placeholder,
  className = "",
  width,
  text,
  fresh,
  refused,
  offers,
  at,
  onText,
  onStep,
  onChoose,
  onBlur,
  onCancel,
}: {
  label: string;
  listLabel: string;
  placeholder?: string;
  className?: string;
  /** Of the list, and of the names in it, in pixels. */
  width: { list: number; name: number };
  text: string;
  /** The text came from a key that replaces the cell, so the cursor stands behind it. */
  fresh: boolean;
  refused?: string;
  offers: Choice[];
  /** The offer that Enter and Tab take, if any. */
  at: number | null;
  onText: (text: string) => void;
  onStep: (step: 1 | -1) => void;
  onChoose: (then: Leave["then"], at: number | null) => void;
  onBlur: () => void;
  onCancel: () => void;
}) {
  const box = useRef<HTMLInputElement>(null);
  const list = useId();
  const [upward, setUpward] = useState(false);
  const [wide, setWide] = useState(width.list);
  useLayoutEffect(() => {
    box.current?.focus();
    if (!fresh) box.current?.select();
    const here = box.current?.getBoundingClientRect();
    if (!here) return;
    // On the last rows of the screen the list would be cut off below, and in a narrow column at its right.
    setUpward(here.bottom > window.innerHeight - 276);
    setWide(Math.min(width.list, Math.max(LEAST, rightEdge(box.current!) - 8 - here.left)));
  }, [fresh, width.list]);
  return (
    <>
      <input
        ref={box}
        role="combobox"
        aria-label={label}
        aria-expanded={offers.length > 0}
        aria-controls={list}
        aria-activedescendant={at !== null && offers[at] ? `${list}-${at}` : undefined}
        aria-invalid={!!refused}
        autoComplete="off"
        placeholder={placeholder}
        className={`absolute inset-0 z-10 w-full border-2 border-blue bg-paper px-1 text-ink ${className}`}
        value={text}
        onChange={(event) => onText(event.target.value)}
        onBlur={onBlur}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "ArrowDown" || event.key === "ArrowUp") {
            event.preventDefault();
            onStep(event.key === "ArrowDown" ? 1 : -1);
          } else if (event.key === "Enter" && !event.altKey) {
            event.preventDefault();
            onChoose("down", at);
          } else if (event.key === "Tab") {
            event.preventDefault();
            onChoose(event.shiftKey ? "back" : "next", at);
          } else if (event.key === "Escape") onCancel();
        }}
      />
      {refused ? (
        <CellError text={refused} />
      ) : (
        offers.length > 0 && (
          <div
            id={list}
            role="listbox"
            aria-label={listLabel}
            style={{ width: wide }}
            className={`absolute left-0 z-20 text-ink ${upward ? "bottom-full" : "top-full"} max-h-[268px] overflow-y-auto border border-hair-2 bg-paper py-1 shadow-lg`}
          >
            {offers.map((offer, index) => (
              <div
                key={offer.key}
                id={`${list}-${index}`}
                role="option"
                tabIndex={-1}
                aria-selected={index === at}
                className={`flex cursor-pointer gap-3 px-2 py-1 ${index === at ? "bg-blue-tint" : ""}`}
                onMouseDown={(event) => {
                  event.preventDefault();
                  onChoose("next", index);
                }}
              >
                <span className="pn shrink-0 truncate" style={{ width: width.name }}>
                  {offer.name}
                </span>
                <span className={`truncate ${offer.makes ? "text-blue" : "text-ink-2"}`}>{offer.words}</span>
              </div>
            ))}
          </div>
        )
      )}
    </>
  );
}
