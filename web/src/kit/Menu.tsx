import { DropdownMenu } from "radix-ui";
import type { PointerEvent, ReactNode } from "react";
import { type Subject, useRefusal } from "../lib/session";
import { Button } from "./Button";
import { useSay } from "./Says";

/** A button that opens a list of things to do. */
export function Menu({ label, className = "", children }: { label: string; className?: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className={className}>{label}</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="rise z-50 max-h-[80vh] min-w-[220px] overflow-y-auto border border-hair-2 bg-paper py-1 shadow-lg"
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** What somebody types into a field of the menu is not taken away by a pointer that rests on an item, which may move beneath it. */
const typing = {
  onPointerMove: (event: PointerEvent) => document.activeElement instanceof HTMLInputElement && event.preventDefault(),
  onPointerLeave: (event: PointerEvent) => document.activeElement instanceof HTMLInputElement && event.preventDefault(),
};

/** With `needs`, whoever may not write that subject finds it disabled with the server's reason. */
export function MenuItem({
  onSelect,
  needs,
  children,
}: {
  onSelect: () => void;
  needs?: Subject;
  children: ReactNode;
}) {
  const reason = useRefusal(needs);
  const say = useSay();
  return (
    <DropdownMenu.Item
      {...typing}
      aria-disabled={!!reason}
      title={reason}
      className="cursor-pointer px-3 py-1.5 outline-none aria-disabled:cursor-not-allowed aria-disabled:text-ink-3 data-[highlighted]:bg-blue-tint"
      onSelect={reason ? () => say(reason, { bad: true }) : onSelect}
    >
      {children}
    </DropdownMenu.Item>
  );
}

/** A thing that is on or off; the menu stays open. */
export function MenuCheck({ on, onTurn, children }: { on: boolean; onTurn: () => void; children: ReactNode }) {
  return (
    <DropdownMenu.CheckboxItem
      {...typing}
      checked={on}
      onCheckedChange={onTurn}
      onSelect={(event) => event.preventDefault()}
      className="flex cursor-pointer gap-2 px-3 py-1 outline-none data-[highlighted]:bg-blue-tint"
    >
      {/* Drawn, so that no font of the machine makes the row higher. */}
      <svg viewBox="0 0 12 12" className="mt-1 h-3 w-3 shrink-0" aria-hidden="true">
        {on && <path d="M2 6.5 5 9.5 10 2.5" fill="none" stroke="currentColor" strokeWidth={1.6} />}
      </svg>
      {children}
    </DropdownMenu.CheckboxItem>
  );
}

export function MenuLine() {
  return <DropdownMenu.Separator className="my-1 border-t border-hair" />;
}
