import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import type { Refusal, Schemas } from "../lib/api";
import type { InquiryLine } from "../model/inquiry";
import { useClasses } from "../pieces/parts/useParts";
import type { useDeciding } from "./useInquiry";

/** New parts of many lines at once: those that nothing of ours is like, or all that are undecided. */
export function NewParts({
  lines,
  make,
  onClose,
}: {
  lines: InquiryLine[];
  make: ReturnType<typeof useDeciding>["make"];
  onClose: () => void;
}) {
  const running = useClasses().filter((c) => c.digits > 0);
  const [part_class, setClass] = useState("");
  const [all, setAll] = useState(false);
  const undecided = lines.filter((l) => l.state === "open" && (all || l.proposals[0] === 0));
  const named = part_class ? undecided : undecided.filter((l) => l.part || l.maker_number);
  const save = useMutation<Schemas["DecidedOut"], Refusal, void>({
    mutationFn: () =>
      make.mutateAsync(named.map((l) => ({ line: l.id, seen: l.stamp, number: "", part_class, description: "" }))),
    onSuccess: onClose,
  });
  const without = undecided.length - named.length;
  return (
    <Panel
      title="New parts"
      note="drafts, each thing once however many lines are of it; U takes the pairs back, the parts stay"
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Field label="Their numbers">
          {(p) => (
            <select {...p} className="field" value={part_class} onChange={(e) => setClass(e.target.value)}>
              <option value="">as the list writes them</option>
              {running.map((c) => (
                <option key={c.name} value={c.name}>
                  the next of class {c.name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} /> also lines that could be a
          part of ours
        </label>
        {without > 0 && (
          <p className="text-brass">
            {without} {without === 1 ? "line has" : "lines have"} no number; a class gives one.
          </p>
        )}
        {save.error && (
          <p role="alert" className="text-bad">
            {save.error.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button needs="parts" look="strong" type="submit" autoFocus disabled={save.isPending || named.length === 0}>
            Make {named.length} {named.length === 1 ? "part" : "parts"}
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
      <ul className="mt-3 flex flex-col" aria-label="Lines that become parts">
        {named.slice(0, 300).map((line) => (
          <li key={line.id} className="grid grid-cols-[34px_140px_1fr] gap-x-2 border-t border-hair py-0.5">
            <span className="text-right text-[12px] text-ink-3">{line.row || ""}</span>
            <span className="pn truncate">{line.part || line.maker_number}</span>
            <span className="truncate text-ink-2">{line.description}</span>
          </li>
        ))}
        {named.length > 300 && <li className="border-t border-hair pt-1 text-ink-3">and {named.length - 300} more</li>}
      </ul>
    </Panel>
  );
}
