import { Field } from "../kit/Field";

/** A code of a second factor: six digits, or one for the day it is lost. */
export function CodeField({
  label = "Code of your second factor",
  error,
  value,
  onChange,
}: {
  label?: string;
  error?: string;
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <Field label={label} error={error}>
      {(props) => (
        <input
          {...props}
          className="field font-mono"
          autoFocus
          autoComplete="one-time-code"
          maxLength={20}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  );
}
