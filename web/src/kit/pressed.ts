import type { KeyboardEvent } from "react";
import { type Command, matches } from "./commands";

/** Does what a key stands for on a working screen; a digit means the thing of this number beside the row, from 0. */
export function pressed(event: KeyboardEvent, commands: Command[], take: (index: number) => void) {
  const from = event.target as HTMLElement;
  // What is typed into a field, or into a panel over the screen, is meant for that.
  if (event.defaultPrevented || from.closest("input, textarea, select") || !event.currentTarget.contains(from)) return;
  if (/^[0-9]$/.test(event.key) && !event.ctrlKey && !event.altKey) {
    event.preventDefault();
    take((Number(event.key) + 9) % 10);
    return;
  }
  const command = commands.find((c) => c.run && c.keys && matches(event.nativeEvent, c.keys));
  if (!command) return;
  event.preventDefault();
  command.run?.();
}
