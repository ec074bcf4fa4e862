import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useRef, useState } from "react";
import { answer, client } from "../lib/api";
import { holds } from "../lib/words";
import type { Leave } from "./CellEditor";
import { type Choice, ChoiceBox } from "./ChoiceBox";

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
  onKeep: (number: string, make: "bought" | "made", leave: Leave) => void;
  onCancel: () => void;
}) {
  const [text, setText] = useState(start);
  const [pickedKey, setPickedKey] = useState<string | null>(null);
  const [refused, setRefused] = useState(error);
  const left = useRef(false);
  const search = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: ["parts", "pick", search],
    queryFn: () => answer(client.GET("/api/parts", { params: { query: { search, limit: 7 } } })),
    enabled: search.length > 0,
    placeholderData: keepPreviousData,
  });
  // What was found for fewer letters is offered only as far as it still fits.
  const parts = text.trim()
    ? (found.data?.items ?? []).filter((part) => holds(text.trim(), part.number, part.description))
    : [];
  const exact = parts.some((part) => part.number.toUpperCase() === text.trim().toUpperCase());
  const offers: (Choice & { kind?: "bought" | "made" })[] = parts.map((part) => ({
    key: part.number,
    name: part.number,
    words: part.description,
  }));
  if (text.trim() && !exact && !known)
    for (const kind of ["bought", "made"] as const)
      offers.push({ key: `make ${kind}`, name: text.trim(), words: `make this ${kind} part`, makes: true, kind });

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
    else onKeep(offer?.name ?? number, offer?.kind ?? "bought", { then });
  };

  return (
    <ChoiceBox
      label="Part number"
      listLabel="Parts that match"
      className="pn"
      width={{ list: 430, name: 140 }}
      text={text}
      fresh={fresh}
      refused={refused}
      offers={offers}
      at={picked}
      onText={(typed) => {
        setText(typed);
        setPicked(null);
        setRefused(undefined);
      }}
      onStep={(step) => {
        const next = (picked ?? (step > 0 ? -1 : 0)) + step;
        setPicked(next < 0 || offers.length === 0 ? null : Math.min(next, offers.length - 1));
      }}
      onChoose={keep}
      onBlur={() => keep("stay", picked)}
      onCancel={() => {
        left.current = true;
        onCancel();
      }}
    />
  );
}
