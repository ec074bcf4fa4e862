import { type ReactNode, useId } from "react";

/** A labelled control with the reason beneath it when its content cannot be kept. */
export function Field({
  label,
  hint,
  error,
  children,
}: {
  label: string;
  hint?: string;
  error?: string;
  children: (props: { id: string; "aria-invalid": boolean; "aria-describedby"?: string }) => ReactNode;
}) {
  const id = useId();
  const said = error ?? hint;
  return (
    <div className="flex min-w-0 flex-col gap-0.5">
      <label htmlFor={id} className="text-ink-2">
        {label}
      </label>
      {children({ id, "aria-invalid": !!error, "aria-describedby": said ? `${id}-said` : undefined })}
      {said && (
        <span
          id={`${id}-said`}
          role={error ? "alert" : undefined}
          className={`text-[12px] ${error ? "text-bad" : "text-ink-3"}`}
        >
          {said}
        </span>
      )}
    </div>
  );
}
