import { useQueryClient } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { TallyMark } from "../kit/TallyMark";
import { useSignOut } from "../lib/session";
import { SecondFactor } from "../pieces/SecondFactor";

/** Where this installation asks for a second factor and there is none yet: it is set up before anything else. */
export function FirstSecondFactor() {
  const queries = useQueryClient();
  const signOut = useSignOut();
  return (
    <main className="flex h-full items-center justify-center">
      <section className="w-[400px] border-t-4 border-blue bg-paper p-7">
        <h1 className="flex items-center gap-3 text-[20px] font-semibold">
          <TallyMark size={34} />
          Your second factor
        </h1>
        <p className="mt-3 text-ink-2">Here one signs in with a password and a code. Set yours up; then you are in.</p>
        <SecondFactor onDone={() => void queries.invalidateQueries({ queryKey: ["session"] })} />
        <Button look="quiet" className="mt-4 -ml-3" onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </section>
    </main>
  );
}
