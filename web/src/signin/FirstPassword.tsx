import { useQueryClient } from "@tanstack/react-query";
import { OwnPassword } from "../pieces/OwnPassword";
import { BeforeAnything } from "./BeforeAnything";

/** Where the password was given by somebody else: one of one's own is chosen before anything else. */
export function FirstPassword() {
  const queries = useQueryClient();
  return (
    <BeforeAnything title="A password of your own">
      <p className="mt-3 text-ink-2">
        Somebody else gave you the one you signed in with. Choose one that only you know; then you are in.
      </p>
      <OwnPassword first onDone={() => void queries.invalidateQueries({ queryKey: ["session"] })} />
    </BeforeAnything>
  );
}
