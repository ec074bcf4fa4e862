import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { sendFile } from "../kit/sendFile";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { typed } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { ReportedOrders } from "./ReportedOrders";

const NAMES = ["order", "part", "sequence", "quantity", "run_minutes", "setup_minutes", "finished_on"] as const;
const LABELS: Record<(typeof NAMES)[number], string> = {
  order: "Order",
  part: "Part",
  sequence: "Operation",
  quantity: "Units it started",
  run_minutes: "Run, min in all",
  setup_minutes: "Set-up, min",
  finished_on: "Finished",
};

/** What the shop reports of finished orders, as a list or one by one; the sheet reads run times from them. */
export function FinishedOrders({ onClose }: { onClose: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const say = useSay();
  const untrue = useUntrue();
  const form = useForm(NAMES, {}, ["sequence", "quantity", "run_minutes", "setup_minutes"]);
  const kept = ({ kept: fresh, held }: Schemas["Taken"]) => {
    say(
      `Kept ${fresh} ${fresh === 1 ? "row" : "rows"}${held > 0 ? `; ${held} ${held === 1 ? "was" : "were"} there already` : ""}.`,
    );
    untrue("finished order");
  };
  const file = useMutation<Schemas["Taken"], Refusal, File>({
    mutationFn: (chosen) => sendFile<Schemas["Taken"]>("/api/finished-orders/file", chosen),
    onSuccess: kept,
  });
  const one = useMutation<Schemas["Taken"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/finished-orders", {
          body: {
            ...form.values,
            sequence: typed(form.values.sequence),
            quantity: typed(form.values.quantity),
            run_minutes: typed(form.values.run_minutes),
            setup_minutes: typed(form.values.setup_minutes),
          },
        }),
      ),
    onSuccess: (answered) => {
      kept(answered);
      for (const name of ["order", "quantity", "run_minutes", "setup_minutes"] as const) form.set(name, "");
    },
  });
  return (
    <Panel
      title="Finished orders"
      note="What operations really took. A sheet shows the mean of the last ones beside the run time."
      open
      onClose={onClose}
    >
      <div className="mt-3 flex flex-col gap-3">
        <p className="text-ink-2">
          A list has the columns order, part, operation, quantity, run minutes and finished; set-up minutes if known.
        </p>
        <input
          ref={input}
          type="file"
          accept=".csv,.tsv,.txt,.xlsx,.ods"
          className="hidden"
          aria-label="A list of finished orders"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) file.mutate(chosen);
          }}
        />
        <Button className="self-start" disabled={file.isPending} onClick={() => input.current?.click()}>
          {file.isPending ? "Reading …" : "Bring a list in"}
        </Button>
        {file.error && (
          <ul role="alert" className="max-h-[200px] overflow-y-auto text-bad">
            {file.error.problems.length === 0 && <li>{file.error.message}</li>}
            {file.error.problems.map((p) => (
              <li key={`${p.place}${p.message}`}>{p.message}</li>
            ))}
          </ul>
        )}
        <form
          className="flex flex-col gap-2 border-t border-ink pt-3"
          onSubmit={(event) => {
            event.preventDefault();
            one.mutate();
          }}
        >
          <h2 className="font-semibold">One operation of an order</h2>
          <div className="grid grid-cols-2 gap-2">
            {NAMES.map((name) => (
              <Field key={name} label={LABELS[name]}>
                {(p) =>
                  name === "finished_on" ? (
                    <DayField
                      {...p}
                      value={form.values.finished_on}
                      placeholder="20 Nov 2026"
                      onKeep={(iso) => form.set("finished_on", iso)}
                    />
                  ) : (
                    <input
                      {...p}
                      {...form.bind(name)}
                      className={`field ${name === "order" || name === "part" ? "" : "text-right"}`}
                    />
                  )
                }
              </Field>
            ))}
          </div>
          {one.error && (
            <p role="alert" className="text-bad">
              {one.error.problems.map((p) => p.message.replace("row 2: ", "")).join("; ") || one.error.message}
            </p>
          )}
          <div className="flex gap-2">
            <Button look="strong" type="submit" disabled={one.isPending}>
              Keep
            </Button>
            <Button className="ml-auto" onClick={onClose}>
              Close
            </Button>
          </div>
        </form>
        <ReportedOrders />
      </div>
    </Panel>
  );
}
