import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useId, useLayoutEffect, useRef, useState } from "react";
import { answer, client } from "../lib/api";
import { holds } from "../lib/words";
import { CellError, type Leave } from "./CellEditor";

/** Choose a part by number or words; a number that does not exist yet can be made on the spot, as a draft. */
export function PartEditor({
  start,
  fresh,
  known = false,
  error,
  onKeep,
  onCancel,
}: {
  start: string;
  fresh: boolean;
  /** Only parts that exist can be chosen. */
  known?: boolean;
  error?: string;
  /** `make`: the kind of the part, should there be none of this number. */
  onKeep: (number: string, make: string, leave: Leave) => void;
  onCancel: () => void;
}) {
  const [text, setText] = useState(start);
  const [pickedKey, setPickedKey] = useState<string | null>(null);
  const [refused, setRefused] = useState(error);
  const box = useRef<HTMLInputElement>(null);
  const left = useRef(false);
  const list = useId();
  const [upward, setUpward] = useState(false);
  const search = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: ["parts", "pick", search],
    queryFn: () => answer(client.GET("/api/parts", { params: { query: { search, limit: 7 } } })),
    enabled: search.length > 0,
    placeholderData: keepPreviousData,
  });
  useLayoutEffect(() => {
    box.current?.focus();
    if (!fresh) box.current?.select();
    // On the last rows of the screen the list would be cut off below.
    setUpward((box.current?.getBoundingClientRect().bottom ?? 0) > window.innerHeight - 270);
  }, [fresh]);
  // What was found for fewer letters is offered only as far as it still fits.
  const parts = text.trim()
    ? (found.data?.items ?? []).filter((part) => holds(text.trim(), part.number, part.description))
    : [];
  const exact = parts.some((part) => part.number.toUpperCase() === text.trim().toUpperCase());
  const offers = [
    ...parts.map((part) => ({
      key: part.number,
      number: part.number,
      words: part.description,
      make: null as string | null,
    })),
    ...(text.trim() && !exact && !known
      ? ["bought", "made"].map((kind) => ({
          key: `make ${kind}`,
          number: text.trim(),
          words: `make this ${kind} part`,
          make: kind as string | null,
        }))
      : []),
  ];

  // By its key, so that parts found meanwhile do not put another under the cursor.
  const at = offers.findIndex((offer) => offer.key === pickedKey);
  const picked = at < 0 ? null : at;
  const setPicked = (index: number | null) => setPickedKey(index === null ? null : (offers[index]?.key ?? null));

  const keep = (then: Leave["then"], index: number | null) => {
    if (left.current) return;
    const number = text.trim();
    const offer = index === null ? undefined : offers[index];
    left.current = true;
    // Leaving the cell is no word that a part should be made; Enter and Tab are.
    if (!number || (then === "stay" && !offer && !exact)) onCancel();
    else onKeep(offer?.number ?? number, offer?.make ?? "bought", { then });
  };

  return (
    <>
      <input
        ref={box}
        role="combobox"
        aria-label="Part number"
        aria-expanded={offers.length > 0}
        aria-controls={list}
        aria-activedescendant={picked === null ? undefined : `${list}-${picked}`}
        aria-invalid={!!refused}
        autoComplete="off"
        className="pn absolute inset-0 z-10 w-full border-2 border-blue bg-paper px-1 text-ink"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setPicked(null);
          setRefused(undefined);
        }}
        onBlur={() => keep("stay", picked)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "ArrowDown" || event.key === "ArrowUp") {
            event.preventDefault();
            const step = event.key === "ArrowDown" ? 1 : -1;
            const next = (picked ?? (step > 0 ? -1 : 0)) + step;
            setPicked(next < 0 || offers.length === 0 ? null : Math.min(next, offers.length - 1));
          } else if (event.key === "Enter" && !event.altKey) {
            event.preventDefault();
            keep("down", picked);
          } else if (event.key === "Tab") {
            event.preventDefault();
            keep(event.shiftKey ? "back" : "next", picked);
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
            aria-label="Parts that match"
            className={`absolute left-0 z-20 w-[430px] text-ink ${upward ? "bottom-full" : "top-full"} border border-hair-2 bg-paper py-1 shadow-lg`}
          >
            {offers.map((offer, index) => (
              <div
                key={offer.key}
                id={`${list}-${index}`}
                role="option"
                tabIndex={-1}
                aria-selected={index === picked}
                className={`flex cursor-pointer gap-3 px-2 py-1 ${index === picked ? "bg-blue-tint" : ""}`}
                onMouseDown={(event) => {
                  event.preventDefault();
                  keep("next", index);
                }}
              >
                <span className="pn w-[140px] shrink-0 truncate">{offer.number}</span>
                <span className={`truncate ${offer.make ? "text-blue" : "text-ink-2"}`}>{offer.words}</span>
              </div>
            ))}
          </div>
        )
      )}
    </>
  );
}
