import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../../kit/Button";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { minutes, quantity } from "../../lib/number";
import { useUntrue } from "../../lib/untrue";
import { type OperationValues, operationValues } from "../../model/change";
import type { OperationRow, SheetView } from "../../model/wire";

export type OperationAside = "order" | "instructions" | "measured" | "computed";

/** The fields of an operation that stand in the library, too: all but its place in the routing. */
export function standardValues(operation: OperationRow): OperationValues {
  const {
    sequence: _s,
    after: _a,
    standard: _c,
    standard_version: _v,
    run_from_orders: _r,
    run_expression: _e,
    beside: _b,
    resource: _n,
    ...values
  } = operationValues(operation);
  return values;
}

/** What an operation takes of its lot, where to look on, and the entry of the library it follows. */
export function OperationHead({
  view,
  operation,
  editable,
  onAside,
  onBeside,
  onSet,
}: {
  view: SheetView;
  operation: OperationRow;
  editable: boolean;
  onAside: (aside: OperationAside) => void;
  /** Something is to work beside it. */
  onBeside: () => void;
  onSet: (after: OperationValues) => void;
}) {
  const made = view.parts[operation.parent]!;
  const own = view.operations.filter((o) => o.parent === operation.parent && o.beside === null);
  const sum = (name: "lot_setup" | "lot_run") => own.reduce((total, o) => total + (o[name] ?? 0), 0);
  return (
    <>
      <table className="w-full border-b border-hair text-[12px]">
        <thead>
          <tr className="text-right text-ink-2">
            <th className="text-left font-normal">
              a lot of {quantity(made.lot)} {made.unit}
            </th>
            <th className="font-normal">set-up</th>
            <th className="font-normal">run</th>
            <th
              className="font-normal"
              title="on the clock, as the hours of a week go: queue, set-up, run, wait and move"
            >
              on the clock
            </th>
          </tr>
        </thead>
        <tbody className="text-right">
          <tr>
            <th className="text-left font-normal">this operation</th>
            <td>{minutes(operation.lot_setup)}</td>
            <td>{minutes(operation.lot_run)}</td>
            <td>{minutes(operation.lot_elapsed)}</td>
          </tr>
          <tr className="font-semibold">
            <th className="text-left">the routing</th>
            <td>{minutes(sum("lot_setup"))}</td>
            <td>{minutes(sum("lot_run"))}</td>
            <td>{quantity(made.routing_days, 1)} days</td>
          </tr>
        </tbody>
      </table>
      <div className="flex flex-wrap gap-1.5">
        <Button className="!min-h-[26px] !px-2" onClick={() => onAside("order")}>
          Order of work
        </Button>
        <Button className="!min-h-[26px] !px-2" onClick={() => onAside("instructions")}>
          Instructions{operation.instructions || operation.files.length > 0 ? " ✓" : ""}
        </Button>
        {!operation.subcontract && (
          <Button className="!min-h-[26px] !px-2" onClick={() => onAside("measured")}>
            Measured times
          </Button>
        )}
        {!operation.subcontract && (
          <Button className="!min-h-[26px] !px-2" onClick={() => onAside("computed")}>
            From fields{operation.run_expression ? " ✓" : ""}
          </Button>
        )}
        {editable && !operation.subcontract && (
          <Button className="!min-h-[26px] !px-2" onClick={onBeside}>
            + beside it
          </Button>
        )}
      </div>
      <Library operation={operation} editable={editable} onSet={onSet} />
    </>
  );
}

function Library({
  operation,
  editable,
  onSet,
}: {
  operation: OperationRow;
  editable: boolean;
  onSet: (after: OperationValues) => void;
}) {
  const [code, setCode] = useState<string | null>(null);
  const say = useSay();
  const untrue = useUntrue();
  const library = useQuery({
    queryKey: ["library"],
    queryFn: () => answer(client.GET("/api/library")),
    enabled: operation.standard !== null,
  });
  const entry = library.data?.find((one) => one.code === operation.standard);
  const keep = useMutation<Schemas["StandardOut"], Refusal, string>({
    mutationFn: (name) =>
      answer(client.POST("/api/library", { body: { code: name, values: standardValues(operation) } })),
    onSuccess: (made) => {
      say(`${made.code} is in the library.`);
      setCode(null);
      untrue("library");
      if (editable) onSet({ standard: made.code, standard_version: made.version });
    },
  });
  if (operation.standard === null) {
    if (code === null)
      return (
        <Button needs="sheets" look="quiet" className="!min-h-0 self-start" onClick={() => setCode("")}>
          Keep it in the library
        </Button>
      );
    return (
      <form
        className="flex flex-col gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(code);
        }}
      >
        <span className="flex items-center gap-2">
          in the library as
          <input
            className="field !min-h-[28px] !w-[110px]"
            aria-label="Code in the library"
            aria-invalid={!!keep.error}
            value={code}
            onChange={(event) => setCode(event.target.value)}
            autoFocus
          />
          <Button type="submit" className="!min-h-[28px]" disabled={!code.trim() || keep.isPending}>
            Keep
          </Button>
        </span>
        {keep.error && (
          <span role="alert" className="text-[12px] text-bad">
            {keep.error.message}
          </span>
        )}
      </form>
    );
  }
  // While a change is on its way the entry's version is not known.
  const behind = operation.standard_now !== null && operation.standard_version !== operation.standard_now;
  const held: Record<string, unknown> = standardValues(operation);
  const differs = entry
    ? Object.keys(entry.values).filter((n) => JSON.stringify(entry.values[n]) !== JSON.stringify(held[n]))
    : [];
  return (
    <div className="flex flex-col gap-1 border-l-2 border-hair-2 pl-2">
      <span>
        Follows <span className="pn">{operation.standard}</span> of the library
        {behind ? <span className="text-brass">, which has changed since</span> : ""}
      </span>
      {entry && differs.length > 0 && (
        <ul className="text-[12px] text-ink-2">
          {differs.map((name) => (
            <li key={name} className="truncate">
              {name.replaceAll("_", " ")}: {shown(held[name])} here, {shown(entry.values[name])} there
            </li>
          ))}
        </ul>
      )}
      {editable && (
        <span className="flex gap-2">
          {entry && (behind || differs.length > 0) && (
            <Button
              className="!min-h-[26px] !px-2"
              onClick={() =>
                onSet({
                  ...entry.values,
                  standard_version: entry.version,
                  ...(differs.includes("run_minutes") ? { run_from_orders: null, run_expression: "" } : {}),
                })
              }
            >
              Take it as it is there
            </Button>
          )}
          <Button look="quiet" className="!min-h-0" onClick={() => onSet({ standard: null, standard_version: null })}>
            Detach
          </Button>
        </span>
      )}
    </div>
  );
}

function shown(value: unknown): string {
  if (value === null || value === undefined || value === "" || (Array.isArray(value) && value.length === 0)) return "–";
  return typeof value === "object" ? JSON.stringify(value) : String(value).slice(0, 40);
}
