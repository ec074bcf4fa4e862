import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import type { Drawing } from "./useDrawing";

type Group = Schemas["GroupIn"];

/** Items numbered by where their balloons point, each group for itself; what will change is shown before it does. */
export function Numbers({
  drawing,
  onDone,
  onClose,
}: {
  drawing: Drawing;
  onDone: (now: Drawing) => void;
  onClose: () => void;
}) {
  const [groups, setGroups] = useState<Group[]>([{ part_class: "", start: 10, step: 10, upward: false }]);
  const [tolerance, setTolerance] = useState(12);
  const body = { groups, tolerance_mm: tolerance };
  const at = { params: { query: { number: drawing.part } } };
  const planned = useQuery({
    queryKey: ["drawings", drawing.part, "numbers", drawing.version, body],
    queryFn: () => answer(client.POST("/api/drawings/one/numbers/planned", { ...at, body })),
    placeholderData: keepPreviousData,
  });
  const number = useMutation<Drawing, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/drawings/one/numbers", { ...at, body })),
    onSuccess: onDone,
  });
  const set = (index: number, change: Partial<Group>) =>
    setGroups(groups.map((g, i) => (i === index ? { ...g, ...change } : g)));
  const classes = [...new Set(drawing.lines.map((l) => l.part_class))].filter(
    (c) => c && !groups.some((g) => g.part_class === c),
  );
  const changes = planned.data?.filter((c) => c.before !== c.after) ?? [];
  const whole = (label: string, value: number, onSet: (value: number) => void) => (
    <label className="flex items-center gap-1.5">
      {label}
      <input
        type="number"
        min={1}
        className="field !min-h-[26px] !w-[62px] text-right"
        value={value}
        onChange={(event) => onSet(Math.max(1, Math.round(Number(event.target.value) || 1)))}
      />
    </label>
  );
  return (
    <section aria-label="Number by position" className="mx-4 mb-2 border-t border-ink bg-paper px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1">
        {groups.map((g, index) => (
          <span key={g.part_class} className="flex items-center gap-2">
            <b>{g.part_class || "all others"}</b>
            {whole("from", g.start, (start) => set(index, { start }))}
            {whole("by", g.step, (step) => set(index, { step }))}
            <select
              className="field !min-h-[26px] !w-auto"
              aria-label={`Which way ${g.part_class || "all others"} count`}
              value={g.upward ? "up" : "down"}
              onChange={(event) => set(index, { upward: event.target.value === "up" })}
            >
              <option value="down">from the top down</option>
              <option value="up">from the bottom up</option>
            </select>
          </span>
        ))}
        {classes.length > 0 && (
          <select
            className="field !min-h-[26px] !w-auto"
            aria-label="A class that counts for itself"
            value=""
            onChange={(event) =>
              event.target.value &&
              setGroups([
                ...groups,
                { part_class: event.target.value, start: 100 * groups.length + 1, step: 1, upward: false },
              ])
            }
          >
            <option value="">+ a class for itself …</option>
            {classes.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </select>
        )}
        {whole("rows within, mm", tolerance, setTolerance)}
        <span className="ml-auto flex gap-1.5">
          <Button className="!min-h-[28px]" onClick={onClose}>
            Leave it
          </Button>
          <Button
            needs="sheets"
            look="strong"
            className="!min-h-[28px]"
            disabled={changes.length === 0 || number.isPending}
            onClick={() => number.mutate()}
          >
            {changes.length === 0
              ? "Nothing changes"
              : `Number ${changes.length} ${changes.length === 1 ? "line" : "lines"}`}
          </Button>
        </span>
      </div>
      {(planned.error ?? number.error) && <p className="pt-1 text-bad">{(planned.error ?? number.error)!.message}</p>}
      {planned.data && (
        <p className="flex flex-wrap gap-x-4 pt-1">
          {planned.data.map((c) => (
            <span key={c.line} title={c.description} className={c.before === c.after ? "text-ink-3" : ""}>
              <span className="pn">{c.number}</span>{" "}
              {c.locked ? "keeps " : c.before === c.after ? "" : `${c.before ?? "–"} → `}
              <b>{c.after}</b>
            </span>
          ))}
        </p>
      )}
    </section>
  );
}
