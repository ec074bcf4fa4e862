import { useMutation } from "@tanstack/react-query";
import { answer, client, Refusal } from "../lib/api";

/** Leaves for the company's own sign-on; the browser comes back signed in, or with why not. */
export function useSignOn() {
  return useMutation<{ address: string }, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/session/sign-on")),
    onSuccess: ({ address }) => window.location.assign(address),
  });
}

/** Opens the company's own sign-on in a window beside this one, so that what is typed here stays. */
export function useSignOnBeside() {
  return useMutation<void, Refusal, void>({
    mutationFn: async () => {
      // At once: a browser lets a window be opened only in the moment of the click.
      const beside = window.open("about:blank", "_blank");
      if (!beside) throw new Refusal(0, "The browser opened no window; let this page open one, and try again.");
      try {
        beside.location.assign((await answer(client.POST("/api/session/sign-on"))).address);
      } catch (error) {
        beside.close();
        throw error;
      }
    },
  });
}
