import { useQueryClient } from "@tanstack/react-query";
import { SecondFactor } from "../pieces/SecondFactor";
import { BeforeAnything } from "./BeforeAnything";

/** Where this installation asks for a second factor and there is none yet: it is set up before anything else. */
export function FirstSecondFactor() {
  const queries = useQueryClient();
  return (
    <BeforeAnything title="Your second factor">
      <p className="mt-3 text-ink-2">Here one signs in with a password and a code. Set yours up; then you are in.</p>
      <SecondFactor onDone={() => void queries.invalidateQueries({ queryKey: ["session"] })} />
    </BeforeAnything>
  );
}
