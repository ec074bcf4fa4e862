import { useRef, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { answer, client } from "../lib/api";
import { typed, typedMinutes } from "../lib/number";
import { type Order, type Stage, useAct } from "./states";

/** What was done at an operation: units, minutes, and why something was scrapped. */
export function ReportForm({ order, stage, onClose }: { order: Order; stage: Stage; onClose: () => void }) {
  const left = Math.max(Number(stage.came) - Number(stage.good) - Number(stage.scrapped), 0);
  const [good, setGood] = useState(left ? String(left) : "");
  const [scrapped, setScrapped] = useState("");
  const [setup, setSetup] = useState("");
  const [run, setRun] = useState("");
  const [reason, setReason] = useState("");
  const [codes, setCodes] = useState("");
  const [beyond, setBeyond] = useState(false);
  // The same for the same act, however often it is sent.
  const key = useRef(crypto.randomUUID());
  const report = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/report", {
          params: { path: { order_id: order.id } },
          body: {
            key: key.current,
            sequence: stage.sequence,
            good: typed(good) || "0",
            scrapped: typed(scrapped) || "0",
            setup_minutes: typedMinutes(setup) || "0",
            run_minutes: typedMinutes(run) || "0",
            reason,
            beyond,
            more: [],
            codes: codes.split(/[\s,;]+/).filter(Boolean),
            done_by: "",
            center: "",
          },
        }),
      ),
    onClose,
  );
  const more = Number(typed(good) || 0) + Number(typed(scrapped) || 0) > left;
  // Only what comes out of the last operation gets numbers.
  const last = order.stages[order.stages.length - 1]?.sequence === stage.sequence;
  const said = (place: string) => report.error?.problems.find((p) => p.place === place)?.message;
  const field = (label: string, value: string, set: (text: string) => void, place: string, focus = false) => (
    <div className="w-[92px]">
      <Field label={label} error={said(place)}>
        {(p) => (
          <input
            {...p}
            className="field text-right"
            inputMode="decimal"
            autoFocus={focus}
            value={value}
            onChange={(event) => set(event.target.value)}
          />
        )}
      </Field>
    </div>
  );
  return (
    <form
      aria-label={`Report of operation ${stage.sequence}`}
      className="flex flex-wrap items-end gap-3 border-b border-ink bg-sunk px-2 py-2 pl-[60px]"
      onSubmit={(event) => {
        event.preventDefault();
        report.mutate();
      }}
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      {field("Good", good, setGood, "good", true)}
      {field("Scrapped", scrapped, setScrapped, "scrapped")}
      {!stage.outside && field("Set-up, min", setup, setSetup, "setup_minutes")}
      {!stage.outside && field("Run, min", run, setRun, "run_minutes")}
      <div className="w-[260px]">
        <Field label={more ? "Why more than came" : "Why scrapped"} error={said("reason")}>
          {(p) => <input {...p} className="field" value={reason} onChange={(event) => setReason(event.target.value)} />}
        </Field>
      </div>
      {last && order.traced && (
        <div className="w-[220px]">
          <Field label={order.traced === "lot" ? "Lot" : "Serial numbers"} error={said("good")}>
            {(p) => (
              <input
                {...p}
                className="field"
                placeholder={order.traced === "lot" ? order.number : `${order.number}-001 …`}
                value={codes}
                onChange={(event) => setCodes(event.target.value)}
              />
            )}
          </Field>
        </div>
      )}
      {more && (
        <label className="flex min-h-8 items-center gap-1.5">
          <input type="checkbox" checked={beyond} onChange={(event) => setBeyond(event.target.checked)} /> more than
          came, and meant
        </label>
      )}
      <span className="ml-auto flex gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button needs="shop reports" look="strong" type="submit" disabled={report.isPending}>
          Report it
        </Button>
      </span>
      {report.error && !said("good") && !said("reason") && (
        <p role="alert" className="w-full text-bad">
          {report.error.problems[0]?.message ?? report.error.message}
        </p>
      )}
    </form>
  );
}
