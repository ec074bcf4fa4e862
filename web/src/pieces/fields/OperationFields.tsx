import { doneAt, OUTSIDE, withCycle } from "../../model/operations";
import { One } from "./One";
import { asText, type Center, NOT_OUTSIDE, OPERATION, OUTSIDE_SPECS, type Spec, WHERE, whereChoices } from "./specs";

/** The fields of an operation outside a routing; what is typed goes to `onSet`, nothing is saved yet. */
export function OperationFields({
  values,
  centers,
  disabled,
  wrong,
  onSet,
}: {
  values: Record<string, unknown>;
  centers: Center[];
  disabled: boolean;
  wrong: (field: string) => string | undefined;
  onSet: (after: Record<string, unknown>) => void;
}) {
  const outside = values.subcontract as Record<string, unknown> | null;
  const at = values.work_center ?? (outside ? OUTSIDE : "");
  const unchosen: [string, string][] = at === "" ? [["", "choose a work center"]] : [];
  const where: Spec = { ...WHERE, choices: [...unchosen, ...whereChoices(centers)] };
  const plain: Spec[] = [
    { name: "name", label: "Name", kind: "text" },
    where,
    ...(outside
      ? []
      : [
          { name: "setup_minutes", label: "Set-up, min", kind: "number" } as Spec,
          { name: "run_minutes", label: "Run, min", kind: "number" } as Spec,
        ]),
    ...OPERATION.filter((o) => o.name !== "after" && !(outside && NOT_OUTSIDE.includes(o.name))),
  ];
  const one = (spec: Spec, from: Record<string, unknown>, keep: (value: unknown) => void) => (
    <One
      key={`${spec.name}-${asText(from[spec.name])}`}
      spec={spec}
      value={spec === where ? at : from[spec.name]}
      disabled={disabled}
      wrong={wrong(spec.name) ? { message: wrong(spec.name)!, typed: from[spec.name] } : undefined}
      onSet={keep}
    />
  );
  return (
    <>
      {plain.map((spec) =>
        one(spec, values, (value) => {
          if (spec !== where) onSet(withCycle(values, { [spec.name]: value }));
          else if (value) onSet(doneAt(values, String(value), centers));
        }),
      )}
      {outside &&
        OUTSIDE_SPECS.map((spec) =>
          one(spec, outside, (value) => onSet({ subcontract: { ...outside, [spec.name]: value } })),
        )}
    </>
  );
}
