/** Whether every word that was typed stands in one of the fields: how parts are found, by the server and here. */
export function holds(typed: string, ...fields: string[]): boolean {
  const all = fields.join(" ").toUpperCase();
  return typed
    .toUpperCase()
    .split(/\s+/)
    .every((word) => all.includes(word));
}
