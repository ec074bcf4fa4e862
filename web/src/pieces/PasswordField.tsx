import { Field } from "../kit/Field";

/** The password of somebody who signs in. */
export function PasswordField({
  value,
  error,
  autoFocus,
  onChange,
}: {
  value: string;
  error?: string;
  autoFocus?: boolean;
  onChange: (value: string) => void;
}) {
  return (
    <Field label="Password" error={error}>
      {(props) => (
        <input
          {...props}
          type="password"
          className="field"
          autoFocus={autoFocus}
          autoComplete="current-password"
          value={value}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Field>
  );
}
