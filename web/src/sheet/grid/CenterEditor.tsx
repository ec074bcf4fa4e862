import { useRef, useState } from "react";
import type { Leave } from "../../kit/CellEditor";
import { ChoiceBox } from "../../kit/ChoiceBox";
import type { WorkCenterOut } from "../../lib/api";
import { holds } from "../../lib/words";
import { OUTSIDE } from "../../model/operations";

/** Choose a work center by its code or its name, or that it is done outside; typing narrows what is offered. */
export function CenterEditor({
  centers: known,
  start,
  fresh,
  error,
  outside = true,
  onKeep,
  onCancel,
}: {
  centers: WorkCenterOut[];
  start: string;
  fresh: boolean;
  error?: string;
  /** Whether it may be done by a supplier instead. */
  outside?: boolean;
  onKeep: (code: string, leave: Leave) => void;
  onCancel: () => void;
}) {
  const centers = outside ? [...known, { code: OUTSIDE, name: "by a supplier" }] : known;
  const [text, setText] = useState(start);
  const [touched, setTouched] = useState(fresh);
  const [moved, setMoved] = useState<number | null>(null);
  const [refused, setRefused] = useState(error);
  const left = useRef(false);
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
    <ChoiceBox
      label="Work center"
      listLabel="Work centers"
      placeholder="choose a work center"
      className="min-w-[150px]"
      width={{ list: 320, name: 96 }}
      text={text}
      fresh={fresh}
      refused={refused}
      offers={offers.map((offer) => ({ key: offer.code, name: offer.code, words: offer.name }))}
      at={at < 0 ? null : at}
      onText={(typed) => {
        setText(typed);
        setTouched(true);
        setMoved(null);
        setRefused(undefined);
      }}
      onStep={(step) => setMoved(Math.max(0, Math.min(offers.length - 1, at + step)))}
      onChoose={(then, index) => keep(then, index === null ? undefined : offers[index]?.code)}
      onBlur={() => keep("stay", exact?.code)}
      onCancel={() => {
        left.current = true;
        onCancel();
      }}
    />
  );
}
