import { useEffect, useSyncExternalStore } from "react";

/** Something that can be done where one stands: by key, and found by the search. */
export interface Command {
  /** What it does: "take the line or operation away". */
  words: string;
  /** The keys that do it: "Ctrl Enter", "Alt D", "Delete", "Alt ArrowUp". */
  keys?: string;
  /** What it does; without it, it is only told: the grid or the browser does it. */
  run?: () => void;
  /** The search (Ctrl K) finds it by these words. */
  find?: string;
  /** It changes what stands there. */
  edits?: boolean;
}

let registered: Command[] = [];
const listeners = new Set<() => void>();

function register(commands: Command[]) {
  registered = commands;
  for (const listener of listeners) listener();
}

/** What can be done on this screen, for as long as the caller stands on it. */
export function useCommands(commands: Command[]) {
  useEffect(() => register(commands), [commands]);
  useEffect(() => () => register([]), []);
}

/** What can be done where one stands. */
export function useRegistered(): Command[] {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => registered,
  );
}

type Pressed = Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey">;

/** Whether a key that was pressed is the one that is named; letters in either size. */
export function matches(event: Pressed, keys: string): boolean {
  const words = keys.split(" ");
  const key = words.at(-1)!;
  const same = key.length === 1 ? event.key.toLowerCase() === key.toLowerCase() : event.key === key;
  return (
    same &&
    (event.ctrlKey || event.metaKey) === words.includes("Ctrl") &&
    event.altKey === words.includes("Alt") &&
    event.shiftKey === words.includes("Shift")
  );
}

const SIGNS: Record<string, string> = { ArrowUp: "↑", ArrowDown: "↓", ArrowLeft: "←", ArrowRight: "→", Escape: "Esc" };

/** Keys as they are told to a person. */
export function keysInWords(keys: string): string {
  return keys
    .split(" ")
    .map((word) => SIGNS[word] ?? word)
    .join(" ");
}
