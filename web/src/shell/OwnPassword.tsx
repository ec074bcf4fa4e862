import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";

/** Another password for oneself, and an end to what was left open elsewhere. */
export function OwnPassword() {
  const [old, setOld] = useState("");
  const [password, setPassword] = useState("");
  const say = useSay();
  const ended = (n: number) =>
    n === 0 ? "Nothing else was open." : n === 1 ? "1 other session ended." : `${n} other sessions ended.`;
  const change = useMutation<Schemas["Ended"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/own-password", { body: { old, password } })),
    onSuccess: ({ sessions }) => {
      setOld("");
      setPassword("");
      say(`Your password is another one. ${ended(sessions)}`);
    },
  });
  const end = useMutation<Schemas["Ended"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/own-sessions")),
    onSuccess: ({ sessions }) => say(ended(sessions)),
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
      <Field label="Password of now" error={change.error?.of("old") ?? whole}>
        {(p) => (
          <input
            {...p}
            type="password"
            autoComplete="current-password"
            className="field"
            value={old}
            onChange={(e) => setOld(e.target.value)}
          />
        )}
      </Field>
      <Field label="New password" error={change.error?.of("password")}>
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
      <div className="flex gap-2">
        <Button type="submit" disabled={!old || !password || change.isPending}>
          Change my password
        </Button>
        <Button className="ml-auto" disabled={end.isPending} onClick={() => end.mutate()}>
          End my other sessions
        </Button>
      </div>
    </form>
  );
}
