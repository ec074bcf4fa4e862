import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";
import { Button } from "../kit/Button";
import { useFocusBack } from "../kit/useFocusBack";
import { sessionEnd } from "../lib/api";
import { useBackElsewhere, useSession, useSignInAgain } from "../lib/session";
import { CodeField } from "./CodeField";
import { PasswordField } from "./PasswordField";
import { useSignOnBeside } from "./useSignOn";

/** Has somebody prove who they are where a session ended while its screen was open, so that nothing on the screen is lost. */
export function SignInAgain() {
  const [open, setOpen] = useState(false);
  const session = useSession().data;
  const user = session?.user ?? "";
  const signOn = useSignOnBeside();
  const close = () => {
    signOn.reset();
    setOpen(false);
  };
  const elsewhere = useBackElsewhere(user, open, close);
  const focusBack = useFocusBack();
  useEffect(() => {
    const ask = () => setOpen(true);
    sessionEnd.addEventListener("ended", ask);
    return () => sessionEnd.removeEventListener("ended", ask);
  }, []);
  const another = elsewhere?.user && elsewhere.user !== user;
  const wrong = another
    ? `In this browser ${elsewhere.user} is signed in now. ${session?.has_password ? `Sign in as ${user}` : `Sign out there, and come in as ${user},`} to go on here.`
    : signOn.error?.message;
  return (
    <Dialog.Root open={open} onOpenChange={(now) => !now && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-70 bg-black/35" />
        <Dialog.Content
          {...focusBack}
          className="rise fixed top-[22vh] left-1/2 z-80 w-[420px] max-w-[96vw] -translate-x-1/2 border-t-4 border-blue bg-paper p-5"
        >
          <Dialog.Title className="text-[18px] font-semibold">Your session has ended</Dialog.Title>
          <Dialog.Description className="mt-2 text-ink-2">
            Sign in again as <b>{user}</b> and go on: what you typed is still here.
          </Dialog.Description>
          {wrong && (
            <p role="alert" className="mt-2 text-bad">
              {wrong}
            </p>
          )}
          {session?.has_password !== false && <ByPassword user={user} done={close} />}
          <div className="mt-3 flex flex-wrap items-center gap-2">
            {elsewhere?.sign_on && (
              <Button
                look={session?.has_password ? "plain" : "strong"}
                disabled={signOn.isPending}
                onClick={() => signOn.mutate()}
              >
                Come in by {elsewhere.sign_on}
              </Button>
            )}
            <Button className="ml-auto" onClick={() => window.location.reload()}>
              Somebody else
            </Button>
          </div>
          {signOn.isSuccess && !another && (
            <p role="status" className="mt-2 text-ink-2">
              It stands in another window. Once you are in there, this screen goes on.
            </p>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function ByPassword({ user, done }: { user: string; done: () => void }) {
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const again = useSignInAgain(user);
  const asked = again.error?.of("code");
  return (
    <form
      className="mt-3 flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        again.mutate({ password, code }, { onSuccess: done });
      }}
    >
      <PasswordField
        value={password}
        error={asked ? undefined : again.error?.message}
        autoFocus
        onChange={setPassword}
      />
      {(asked || code) && <CodeField error={asked} value={code} onChange={setCode} />}
      <Button look="strong" type="submit" disabled={again.isPending} className="self-start">
        Sign in
      </Button>
    </form>
  );
}
