import { useState } from "react";
import { DayField } from "../../kit/DayField";
import { Field } from "../../kit/Field";
import { asText, fromText, type Spec } from "./specs";

/** Why a field could not be kept, and what was typed into it. */
export interface RefusedField {
  message: string;
  typed: unknown;
}

/** One field of a line or an operation: what is typed goes to `onSet` when the field is left. */
export function One({
  spec,
  value,
  disabled,
  wrong,
  onSet,
}: {
  spec: Spec;
  value: unknown;
  disabled: boolean;
  wrong?: RefusedField;
  onSet: (value: unknown) => void;
}) {
  const first = asText(value, spec.kind);
  const [text, setText] = useState(wrong ? asText(wrong.typed, spec.kind) : first);
  if (spec.kind === "flag")
    return (
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={value === true} disabled={disabled} onChange={(e) => onSet(e.target.checked)} />
        {spec.label}
      </label>
    );
  const keep = () => text !== first && onSet(fromText(spec.kind, text));
  return (
    <Field label={spec.label} hint={spec.hint} error={wrong?.message}>
      {(props) =>
        spec.kind === "choice" ? (
          <select
            {...props}
            className="field"
            disabled={disabled}
            value={first}
            onChange={(e) => onSet(e.target.value)}
          >
            {spec.choices?.map(([choice, words]) => (
              <option key={choice} value={choice}>
                {words}
              </option>
            ))}
          </select>
        ) : spec.kind === "day" ? (
          <DayField
            {...props}
            placeholder={spec.empty}
            disabled={disabled}
            value={text}
            onKeep={(iso) => onSet(iso || null)}
          />
        ) : (
          <input
            {...props}
            type="text"
            className={`field ${spec.kind === "number" || spec.kind === "minutes" ? "text-right" : ""}`}
            disabled={disabled}
            list={spec.kind === "partner" ? "suppliers" : undefined}
            value={text}
            onChange={(e) => setText(e.target.value)}
            onBlur={keep}
            onKeyDown={(e) => e.key === "Enter" && keep()}
          />
        )
      }
    </Field>
  );
}
