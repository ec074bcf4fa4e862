import { type ComponentProps, useRef } from "react";
import { Button } from "./Button";

/** A button that has a file chosen, or several at once. */
export function FileButton({
  label,
  accept = ".csv,.xlsx,.ods,.txt,.xml",
  onFile,
  onFiles,
  ...rest
}: {
  /** What the file is. */
  label: string;
  accept?: string;
  onFile?: (file: File) => void;
  onFiles?: (files: File[]) => void;
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
        multiple={!!onFiles}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          // The same file may be chosen again.
          event.target.value = "";
          if (!files.length) return;
          onFiles?.(files);
          onFile?.(files[0]!);
        }}
      />
      <Button {...rest} onClick={() => input.current?.click()} />
    </>
  );
}
