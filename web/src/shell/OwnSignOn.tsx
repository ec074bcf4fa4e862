import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useSignOn } from "../pieces/useSignOn";

const KEY = ["own-sign-on"] as const;

/** How one comes in; whoever has no password here changes none. */
export function useOwnSignOn() {
  return useQuery({ queryKey: KEY, queryFn: () => answer(client.GET("/api/people/own-sign-on")), staleTime: 0 });
}

/** Whether one comes by the company's own sign-on: connected with it, and taken away again. Nothing where there is none. */
export function OwnSignOn() {
  const queries = useQueryClient();
  const own = useOwnSignOn();
  const signOn = useSignOn();
  const drop = useMutation<Schemas["OwnSignOn"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/people/own-sign-on/drop")),
    onSuccess: (now) => queries.setQueryData(KEY, now),
  });
  if (!own.data?.words) return null;
  const { words, connected } = own.data;
  const wrong = signOn.error ?? drop.error;
  return (
    <>
      <h3 className="mt-6 border-t border-hair pt-4 font-semibold">Sign-on</h3>
      <p className="text-ink-2">
        {!connected
          ? `Connected with ${words}, you come in without the password of here.`
          : own.data.password
            ? `You come in by ${words}, too.`
            : `You come in by ${words}, and have no password here.`}
      </p>
      {wrong && (
        <p role="alert" className="text-bad">
          {wrong.message}
        </p>
      )}
      <div className="pt-2">
        {connected ? (
          <Button disabled={drop.isPending} onClick={() => drop.mutate()}>
            Come by it no more
          </Button>
        ) : (
          <Button disabled={signOn.isPending} onClick={() => signOn.mutate()}>
            Connect it
          </Button>
        )}
      </div>
    </>
  );
}
