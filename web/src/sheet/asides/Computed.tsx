import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Ref, useDeferredValue, useState } from "react";
import { Button } from "../../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { quantity } from "../../lib/number";
import type { OperationValues } from "../../model/change";
import type { OperationRow } from "../../model/wire";

const PER = { per_unit: "per unit", per_cycle: "per cycle", per_lot: "per lot" };

/** A run time computed from what is known of the part that is made: its fields, and what its model says of its shape. */
export function Computed({
  made,
  operation,
  editable,
  refused,
  panel,
  onSet,
  onClose,
}: {
  made: string;
  operation: OperationRow;
  editable: boolean;
  refused: string | undefined;
  panel: Ref<HTMLElement>;
  onSet: (after: OperationValues) => void;
  onClose: () => void;
}) {
  const [typed, setTyped] = useState(operation.run_expression ?? "");
  const expression = useDeferredValue(typed);
  const found = useQuery<Schemas["RunTimeOut"], Refusal>({
    queryKey: ["part", made, "run-time", expression],
    queryFn: () => answer(client.GET("/api/parts/one/run-time", { params: { query: { number: made, expression } } })),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const minutes = found.data?.minutes ?? null;
  const same = typed.trim() === operation.run_expression && Number(minutes) === Number(operation.run_minutes);
  return (
    <section ref={panel} tabIndex={-1} aria-label="Run time from fields" className="flex flex-col gap-2.5">
      <div className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold text-blue">
          From fields, operation {operation.sequence} {operation.name}
        </h2>
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          close
        </Button>
      </div>
      <p>
        Run time now <b>{quantity(operation.run_minutes)} min</b> {PER[operation.run_basis]}.
      </p>
      <label className="flex flex-col gap-1">
        Minutes {PER[operation.run_basis]}, from what is known of {made}
        <textarea
          className="field font-mono"
          rows={3}
          maxLength={300}
          spellCheck={false}
          disabled={!editable}
          placeholder="0.2 + bends * 0.15 + cut_length_mm / 1000 * 0.8"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      </label>
      {minutes !== null && (
        <p aria-live="polite">
          comes to <b className="text-[15px]">{quantity(minutes)} min</b>
        </p>
      )}
      {(found.data?.problem || found.error || refused) && (
        <p role="alert" className="text-bad">
          {refused ?? found.error?.message ?? found.data?.problem}
        </p>
      )}
      {editable && (
        <span className="flex gap-2">
          <Button
            look="strong"
            disabled={minutes === null || found.isPlaceholderData || expression !== typed || same}
            onClick={() => onSet({ run_minutes: minutes!, run_expression: typed.trim() })}
          >
            Take it as the run time
          </Button>
          {operation.run_expression && (
            <Button onClick={() => onSet({ run_expression: "" })}>No longer computed</Button>
          )}
        </span>
      )}
      <p className="text-ink-2">
        It stays what it is when these change; a finding says then that it computes to something else.
      </p>
      {found.data && (
        <table className="w-full border-t border-ink">
          <thead>
            <tr className="border-b border-hair-2 text-left text-[12px] text-ink-2">
              <th className="font-normal">Known of {made}</th>
              <th className="text-right font-normal">says</th>
            </tr>
          </thead>
          <tbody>
            {found.data.known.map(({ name, value }) => (
              <tr key={name} className="border-b border-hair">
                <td>
                  <button
                    type="button"
                    className="pn min-h-6 hover:text-blue hover:underline disabled:no-underline"
                    disabled={!editable}
                    title="Put it at the end of the expression"
                    onClick={() => setTyped((now) => (now.trim() ? `${now.trimEnd()} ${name}` : name))}
                  >
                    {name}
                  </button>
                </td>
                <td className="text-right">{typeof value === "number" ? quantity(value, 3) : value}</td>
              </tr>
            ))}
            {found.data.known.length === 0 && (
              <tr>
                <td colSpan={2} className="text-ink-3">
                  Nothing yet: no field of it is filled, and no model says its shape.
                </td>
              </tr>
            )}
          </tbody>
        </table>
      )}
    </section>
  );
}
