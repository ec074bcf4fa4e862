import { useRef } from "react";

/** A name for what is asked for: asked again after a lost answer it is the same, so that nothing is opened twice; something else is asked for by another. */
export function useAskedAs(): (what: unknown) => string {
  const asked = useRef({ what: "", as: "" });
  return (what) => {
    const now = JSON.stringify(what);
    if (asked.current.what !== now) asked.current = { what: now, as: crypto.randomUUID() };
    return asked.current.as;
  };
}
