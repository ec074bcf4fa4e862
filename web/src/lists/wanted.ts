/** A column of a list: its key, and what its reader calls it. */
export interface Titled {
  key: string;
  title: string;
}

/** How a list is made; it lives in the address. */
export interface Wanted {
  arrangement: string;
  columns: Titled[];
  sort: string;
  down: boolean;
  keep_out: string[];
  decimal: string;
}

export const USUAL: Wanted = {
  arrangement: "indented",
  columns: [
    { key: "item", title: "Item" },
    { key: "number", title: "Part" },
    { key: "description", title: "Description" },
    { key: "quantity", title: "Quantity" },
    { key: "unit", title: "Unit" },
  ],
  sort: "",
  down: false,
  keep_out: [],
  decimal: ".",
};

const OURS = ["arrangement", "column", "sort", "down", "keep_out", "decimal", "kept"];

/** The list that an address asks for. */
export function readWanted(params: URLSearchParams): Wanted {
  const columns = params.getAll("column").map((said): Titled => {
    const at = said.indexOf("=");
    return at < 0 ? { key: said, title: said } : { key: said.slice(0, at), title: said.slice(at + 1) };
  });
  return {
    arrangement: params.get("arrangement") ?? USUAL.arrangement,
    columns: columns.length ? columns : USUAL.columns,
    sort: params.get("sort") ?? "",
    down: params.get("down") === "true",
    keep_out: params.getAll("keep_out"),
    decimal: params.get("decimal") ?? USUAL.decimal,
  };
}

/** An address with another list asked for in it; all else of it stays. */
export function writeWanted(params: URLSearchParams, wanted: Wanted): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const name of OURS) next.delete(name);
  next.set("arrangement", wanted.arrangement);
  for (const { key, title } of wanted.columns) next.append("column", `${key}=${title}`);
  if (wanted.sort) next.set("sort", wanted.sort);
  if (wanted.down) next.set("down", "true");
  for (const what of wanted.keep_out) next.append("keep_out", what);
  if (wanted.decimal !== ".") next.set("decimal", wanted.decimal);
  return next;
}

/** The columns with one moved by so many places. */
export function moved(columns: Titled[], key: string, by: number): Titled[] {
  const at = columns.findIndex((c) => c.key === key);
  const to = Math.max(0, Math.min(columns.length - 1, at + by));
  const next = columns.filter((c) => c.key !== key);
  next.splice(to, 0, columns[at]!);
  return next;
}

/** Whether two lists are the same. */
export function same(one: Wanted, other: Wanted): boolean {
  return writeWanted(new URLSearchParams(), one).toString() === writeWanted(new URLSearchParams(), other).toString();
}
