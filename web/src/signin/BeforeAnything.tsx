import type { ReactNode } from "react";
import { Button } from "../kit/Button";
import { TallyMark } from "../kit/TallyMark";
import { useSignOut } from "../lib/session";

/** What a session needs before it opens anything, on a page of its own. */
export function BeforeAnything({ title, children }: { title: string; children: ReactNode }) {
  const signOut = useSignOut();
  return (
    <main className="flex h-full items-center justify-center">
      <section className="w-[400px] border-t-4 border-blue bg-paper p-7">
        <h1 className="flex items-center gap-3 text-[20px] font-semibold">
          <TallyMark size={34} />
          {title}
        </h1>
        {children}
        <Button look="quiet" className="mt-4 -ml-3" onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </section>
    </main>
  );
}
