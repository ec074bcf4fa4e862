/** Whether two plain values say the same, however deep: rows as they come over the wire. */
export function alike(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (
    typeof a !== "object" ||
    typeof b !== "object" ||
    a === null ||
    b === null ||
    Array.isArray(a) !== Array.isArray(b)
  )
    return false;
  const names = Object.keys(a);
  return (
    names.length === Object.keys(b).length &&
    names.every(
      (name) => name in b && alike((a as Record<string, unknown>)[name], (b as Record<string, unknown>)[name]),
    )
  );
}
