import { useState } from "react";
import { typed } from "../lib/number";

/** Text fields of one record: what was there, what is typed, and what of it has changed. */
export function useForm<K extends string>(
  names: readonly K[],
  start: Partial<Record<K, unknown>>,
  numbers: readonly K[] = [],
) {
  const first = Object.fromEntries(
    names.map((n) => [n, start[n] === null || start[n] === undefined ? "" : String(start[n])]),
  ) as Record<K, string>;
  const [values, setValues] = useState(first);
  const changes = Object.fromEntries(
    names.filter((n) => values[n] !== first[n]).map((n) => [n, numbers.includes(n) ? typed(values[n]) : values[n]]),
  ) as Partial<Record<K, string>>;
  return {
    values,
    changes,
    changed: Object.keys(changes).length > 0,
    set: (name: K, value: string) => setValues((old) => ({ ...old, [name]: value })),
    bind: (name: K) => ({
      name,
      value: values[name],
      onChange: (event: { target: { value: string } }) => setValues((old) => ({ ...old, [name]: event.target.value })),
    }),
  };
}
