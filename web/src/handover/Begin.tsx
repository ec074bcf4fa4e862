import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { PartChoice } from "../pieces/PartChoice";

/** Where a handover begins: a product with all beneath it, or chosen sheets alone, beside one of the records. */
export function Begin({
  records,
  start,
  onClose,
}: {
  records: Schemas["RecordNamed"][];
  start: { top: string; beside: string[] | null; record: string };
  onClose: () => void;
}) {
  const navigate = useNavigate();
  const untrue = useUntrue();
  const [record, setRecord] = useState(start.record);
  const [top, setTop] = useState(start.top);
  const [alone, setAlone] = useState(start.beside !== null);
  const [beside, setBeside] = useState(start.beside ?? []);
  const begin = useMutation<Schemas["HandoverOut"], Refusal, void>({
    mutationFn: () =>
      answer(client.POST("/api/handover", { body: { record, top, beside: alone ? beside.filter(Boolean) : null } })),
    onSuccess: (head) => {
      untrue("handover");
      navigate(`/handover/${head.id}`);
    },
  });
  return (
    <Panel
      title="Hand a product over"
      note="It is compared first; nothing is written before you have read what will be."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          begin.mutate();
        }}
      >
        <Field label={alone ? "Sheet of" : "Product"}>
          {() => <PartChoice label={alone ? "Sheet of" : "Product"} value={top} onKeep={setTop} />}
        </Field>
        <fieldset className="flex flex-col gap-1">
          <legend className="pb-1 text-ink-2">What of it</legend>
          {(
            [
              [false, "all beneath it, at every level"],
              [true, "chosen sheets alone, with the parts on them"],
            ] as const
          ).map(([value, words]) => (
            <label key={words} className="flex min-h-6 items-center gap-2">
              <input type="radio" name="what" checked={alone === value} onChange={() => setAlone(value)} />
              {words}
            </label>
          ))}
        </fieldset>
        {alone && (
          <section aria-label="Further sheets" className="flex flex-col gap-2">
            {[...beside, ""].map((number, at) => (
              <span key={number || "another"} className="flex items-center gap-2">
                <PartChoice
                  label={number ? "Sheet of" : "And of"}
                  value={number}
                  onKeep={(chosen) =>
                    chosen &&
                    chosen !== top &&
                    setBeside((all) => [...new Set([...all.slice(0, at), chosen, ...all.slice(at + 1)])])
                  }
                />
                {number && (
                  <Button look="quiet" onClick={() => setBeside((all) => all.filter((n) => n !== number))}>
                    leave out
                  </Button>
                )}
              </span>
            ))}
          </section>
        )}
        <Field label="Records">
          {(props) => (
            <select
              {...props}
              value={record}
              onChange={(event) => setRecord(event.target.value)}
              className="h-8 border border-hair-2 bg-paper px-2"
            >
              {records.map((r) => (
                <option key={r.name} value={r.name}>
                  {r.words}
                </option>
              ))}
            </select>
          )}
        </Field>
        {begin.error && (
          <p role="alert" className="text-bad">
            {begin.error.message}
          </p>
        )}
        <span>
          <Button type="submit" look="strong" disabled={!top || begin.isPending}>
            Compare
          </Button>
        </span>
      </form>
    </Panel>
  );
}
