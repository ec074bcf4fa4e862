import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { answer, client, type Refusal, type Schemas } from "../lib/api";

/** Another password for oneself; one's other sessions end with the old one. */
export function OwnPassword({ first = false, onDone }: { first?: boolean; onDone: (ended: number) => void }) {
  const [old, setOld] = useState("");
  const [password, setPassword] = useState("");
  const change = useMutation<Schemas["Ended"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/own-password", { body: { old, password } })),
    onSuccess: ({ sessions }) => {
      setOld("");
      setPassword("");
      onDone(sessions);
    },
  });
  // What concerns no field, as after too many wrong tries.
  const whole = change.error?.problems.some((p) => p.place) ? undefined : change.error?.message;
  return (
    <form
      className="mt-4 flex flex-col gap-3"
      aria-label="Password"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate();
      }}
    >
      <Field label={first ? "The password you were given" : "Password of now"} error={change.error?.of("old") ?? whole}>
        {(p) => (
          <input
            {...p}
            type="password"
            autoFocus={first}
            autoComplete="current-password"
            className="field"
            value={old}
            onChange={(e) => setOld(e.target.value)}
          />
        )}
      </Field>
      <Field
        label={first ? "A password of your own" : "New password"}
        hint="ten characters or more, of any kind"
        error={change.error?.of("password")}
      >
        {(p) => (
          <input
            {...p}
            type="password"
            autoComplete="new-password"
            className="field"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        )}
      </Field>
      <div>
        <Button look={first ? "strong" : undefined} type="submit" disabled={!old || !password || change.isPending}>
          {first ? "Sign in with it from now on" : "Change my password"}
        </Button>
      </div>
    </form>
  );
}
