import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client } from "../lib/api";
import { useClasses } from "../pieces/parts/useParts";
import { type Round, SCOPE_WORDS, useRoundVerb } from "../pieces/useRounds";

/** The name, the day and the parts of an open round. */
export function RoundPanel({ round, onClose }: { round: Round; onClose: () => void }) {
  const [name, setName] = useState(round.name);
  const [first, setFirst] = useState(round.first_day);
  const [note, setNote] = useState(round.note);
  const [scope, setScope] = useState(round.scope);
  const [text, setText] = useState(round.chosen.join("\n"));
  const [partClass, setPartClass] = useState("");
  const classes = useClasses();
  const numbers = [...new Set(text.split(/[\s,;]+/).filter(Boolean))];
  const change = useRoundVerb(round.id, () =>
    answer(
      client.POST("/api/rounds/{round_id}/change", {
        params: { path: { round_id: round.id } },
        body: { name, first_day: first, note, scope, ...(scope === "chosen" ? { chosen: numbers } : {}) },
      }),
    ),
  );
  const ofClass = useQuery({
    queryKey: ["parts", "of class", partClass],
    queryFn: () => answer(client.GET("/api/parts", { params: { query: { part_class: partClass, limit: 500 } } })),
    enabled: partClass !== "",
  });
  return (
    <Panel title={round.name} note="Name, day and parts of the round" open onClose={onClose}>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate(undefined, { onSuccess: onClose });
        }}
      >
        <Field label="Name" error={change.error?.of("name")}>
          {(p) => <input {...p} className="field" value={name} onChange={(e) => setName(e.target.value)} />}
        </Field>
        <Field label="Holds from" error={change.error?.of("first_day")}>
          {(p) => <DayField {...p} className="field" value={first} onKeep={setFirst} />}
        </Field>
        <Field label="Why">
          {(p) => <input {...p} className="field" value={note} onChange={(e) => setNote(e.target.value)} />}
        </Field>
        <Field label="Of which parts" error={change.error?.of("scope")}>
          {(p) => (
            <select {...p} className="field" value={scope} onChange={(e) => setScope(e.target.value)}>
              {Object.entries(SCOPE_WORDS).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
          )}
        </Field>
        {scope === "chosen" && (
          <>
            <Field
              label={`Part numbers (${numbers.length})`}
              hint="Parts they take that are not among them stay at their standards."
              error={change.error?.of("chosen")}
            >
              {(p) => (
                <textarea
                  {...p}
                  className="field pn !h-[160px]"
                  value={text}
                  onChange={(e) => setText(e.target.value)}
                />
              )}
            </Field>
            <div className="flex items-end gap-2">
              <Field label="All of a class">
                {(p) => (
                  <select {...p} className="field" value={partClass} onChange={(e) => setPartClass(e.target.value)}>
                    <option value="">choose</option>
                    {classes.map((c) => (
                      <option key={c.name} value={c.name}>
                        {c.name}
                      </option>
                    ))}
                  </select>
                )}
              </Field>
              <Button
                disabled={!ofClass.data?.items.length}
                onClick={() =>
                  setText(
                    [
                      ...new Set([
                        ...numbers,
                        ...(ofClass.data?.items ?? []).filter((x) => x.kind !== "phantom").map((x) => x.number),
                      ]),
                    ].join("\n"),
                  )
                }
              >
                Add {ofClass.data ? ofClass.data.items.length : ""}
              </Button>
            </div>
          </>
        )}
        {change.error && change.error.problems.length === 0 && (
          <p role="alert" className="text-bad">
            {change.error.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button look="strong" type="submit" disabled={change.isPending}>
            Keep
          </Button>
          <Button onClick={onClose}>Leave</Button>
        </div>
      </form>
    </Panel>
  );
}
