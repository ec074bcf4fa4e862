import { type ComponentProps, useRef } from "react";
import { Button } from "./Button";

/** A button that has a file chosen. */
export function FileButton({
  label,
  accept = ".csv,.xlsx,.ods,.txt,.xml",
  onFile,
  ...rest
}: {
  /** What the file is. */
  label: string;
  accept?: string;
  onFile: (file: File) => void;
} & Omit<ComponentProps<typeof Button>, "onClick">) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        accept={accept}
        onChange={(event) => {
          const file = event.target.files?.[0];
          // The same file may be chosen again.
          event.target.value = "";
          if (file) onFile(file);
        }}
      />
      <Button {...rest} onClick={() => input.current?.click()} />
    </>
  );
}
