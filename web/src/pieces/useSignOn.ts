import { useMutation } from "@tanstack/react-query";
import { answer, client, type Refusal } from "../lib/api";

/** Leaves for the company's own sign-on; the browser comes back signed in, or with why not. */
export function useSignOn() {
  return useMutation<{ address: string }, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/session/sign-on")),
    onSuccess: ({ address }) => window.location.assign(address),
  });
}
