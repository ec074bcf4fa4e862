import type { Change } from "./change";

/** The change that gives named fields of a row other values; none where they have them already. */
export function set(
  table: "line" | "operation",
  id: string,
  held: Record<string, unknown>,
  after: Record<string, unknown>,
): Change[] {
  // How a part would be made is no change of the line.
  const names = Object.keys(after).filter((name) =>
    name === "make"
      ? after.part !== held.part
      : JSON.stringify(held[name] ?? null) !== JSON.stringify(after[name] ?? null),
  );
  if (names.length === 0) return [];
  const pick = (from: Record<string, unknown>) => Object.fromEntries(names.map((name) => [name, from[name] ?? null]));
  return [{ table, id, before: pick(held), after: pick(after) }];
}
