import type { ComponentProps } from "react";
import { Button } from "./Button";

/** A small button that says its key. */
export function Keyed({
  keys,
  children,
  className = "",
  ...rest
}: { keys: string; children: string } & ComponentProps<typeof Button>) {
  return (
    <Button {...rest} className={`!min-h-[26px] self-start !px-2 ${className}`}>
      {children}
      <kbd className="font-mono text-[11px] opacity-70">{keys}</kbd>
    </Button>
  );
}
