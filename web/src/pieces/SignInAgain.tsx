import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { useFocusBack } from "../kit/useFocusBack";
import { sessionEnd } from "../lib/api";
import { useSession, useSignInAgain } from "../lib/session";
import { CodeField } from "./CodeField";

/** Asks for the password where a session ended while its screen was open, so that nothing on the screen is lost. */
export function SignInAgain() {
  const [open, setOpen] = useState(false);
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const user = useSession().data?.user ?? "";
  const again = useSignInAgain(user);
  const asked = again.error?.of("code");
  const focusBack = useFocusBack();
  useEffect(() => {
    const ask = () => setOpen(true);
    sessionEnd.addEventListener("ended", ask);
    return () => sessionEnd.removeEventListener("ended", ask);
  }, []);
  return (
    <Dialog.Root open={open} onOpenChange={(now) => !now && setOpen(false)}>
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
          <form
            className="mt-3 flex flex-col gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              again.mutate(
                { password, code },
                {
                  onSuccess: () => {
                    setPassword("");
                    setCode("");
                    setOpen(false);
                  },
                },
              );
            }}
          >
            <Field label="Password" error={asked ? undefined : again.error?.message}>
              {(props) => (
                <input
                  {...props}
                  type="password"
                  className="field"
                  autoFocus
                  autoComplete="current-password"
                  value={password}
                  onChange={(e) => setPassword(e.target.value)}
                />
              )}
            </Field>
            {(asked || code) && <CodeField error={asked} value={code} onChange={setCode} />}
            <div className="flex gap-2">
              <Button look="strong" type="submit" disabled={again.isPending}>
                Sign in
              </Button>
              <Button className="ml-auto" onClick={() => window.location.reload()}>
                Somebody else
              </Button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
