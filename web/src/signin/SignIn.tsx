import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { TallyMark } from "../kit/TallyMark";
import { useSession, useSignIn } from "../lib/session";
import { useTheme } from "../lib/theme";
import { CodeField } from "../pieces/CodeField";
import { PasswordField } from "../pieces/PasswordField";
import { useSignOn } from "../pieces/useSignOn";

export function SignIn() {
  useTheme();
  const [user, setUser] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const signIn = useSignIn();
  const session = useSession().data;
  const signOn = useSignOn();
  const refused = signOn.error?.message ?? session?.sign_on_refused;
  // The server asks for it once name and password go together.
  const asked = signIn.error?.of("code");
  const [coded, setCoded] = useState(false);
  if (asked && !coded) setCoded(true);
  return (
    <main className="flex h-full items-center justify-center">
      <form
        className="flex w-[320px] flex-col gap-4 border-t-4 border-blue bg-paper p-7"
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate({ user, password, code });
        }}
      >
        <h1 className="flex items-center gap-3 text-[20px] font-semibold">
          <TallyMark size={34} />
          Round Tally
        </h1>
        <Field label="Name">
          {(props) => (
            <input
              {...props}
              className="field"
              autoFocus
              autoComplete="username"
              value={user}
              onChange={(e) => setUser(e.target.value)}
            />
          )}
        </Field>
        <PasswordField value={password} error={asked ? undefined : signIn.error?.message} onChange={setPassword} />
        {coded && <CodeField error={asked} value={code} onChange={setCode} />}
        <Button look="strong" type="submit" disabled={signIn.isPending} className="justify-center">
          Sign in
        </Button>
        {refused && (
          <p role="alert" className="text-bad">
            {refused}
          </p>
        )}
        {session?.sign_on && (
          <Button className="justify-center" disabled={signOn.isPending} onClick={() => signOn.mutate()}>
            Come in by {session.sign_on}
          </Button>
        )}
      </form>
    </main>
  );
}
