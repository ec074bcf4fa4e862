import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";
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
      checked={on}
      onCheckedChange={onTurn}
      onSelect={(event) => event.preventDefault()}
      className="flex cursor-pointer gap-2 px-3 py-1 outline-none data-[highlighted]:bg-blue-tint"
    >
      <span className="w-3">{on ? "✓" : ""}</span>
      {children}
    </DropdownMenu.CheckboxItem>
  );
}

export function MenuLine() {
  return <DropdownMenu.Separator className="my-1 border-t border-hair" />;
}
