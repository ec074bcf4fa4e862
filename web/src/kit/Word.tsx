import { Popover } from "radix-ui";
import type { ReactNode } from "react";
import { GLOSSARY } from "../lib/glossary";

/** A word of ours where it stands: a click says what it means here. */
export function Word({ of, children }: { of: string; children: ReactNode }) {
  const means = GLOSSARY.find(([word]) => word === of)?.[1];
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" className="cursor-help text-left hover:underline" title={`What “${of}” means here`}>
          {children}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          align="start"
          aria-label={`What ${of} means here`}
          className="z-50 max-w-[320px] border border-hair-2 bg-paper px-3 py-2 text-ink shadow-sm"
        >
          <b className="font-semibold">{of}</b>
          <p className="text-ink-2">{means}</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
