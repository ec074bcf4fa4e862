import { useEffect, useState } from "react";
import { afterPaint } from "../lib/afterPaint";

/** A value, once a frame has been painted since it came: what nobody waits for must not hold up what everybody does. */
export function useLater<T>(value: T): T {
  const [late, setLate] = useState<T>(value);
  useEffect(() => afterPaint(() => setLate(() => value)), [value]);
  return late;
}
