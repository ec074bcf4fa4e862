import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { answer, client, type Refusal, type Schemas, writtenBy } from "./api";
import type { SUBJECTS } from "./declared";
import { keepMoneyOff } from "./number";
import { useUntrue } from "./untrue";

/** What somebody may write, as the server names it. */
export type Subject = (typeof SUBJECTS)[number];

/** A session, and with it whether sums are shown and by whom is written. */
function known(session: Schemas["Session"]): Schemas["Session"] {
  writtenBy(session.user ?? "");
  keepMoneyOff(!session.sees_costs);
  return session;
}

/** Tells the other windows of this browser that somebody came in, or went. */
const changed = new BroadcastChannel("session");

/** Who is signed in. */
export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = known(await answer(client.GET("/api/session")));
      if (session.user) changed.postMessage(session.user);
      return session;
    },
    staleTime: Infinity,
  });
}

/** Why the signed-in person may not write a subject, in the server's words; nothing for who may. */
export function useRefusal(subject: Subject | undefined): string | undefined {
  const session = useSession().data;
  if (!subject || !session) return undefined;
  return session.user ? session.refused[subject] : "Sign in first.";
}

/** Whether the signed-in person may write a subject. */
export function useMay(subject: Subject): boolean {
  const reason = useRefusal(subject);
  return !!useSession().data?.user && reason === undefined;
}

/** Whether the signed-in person is shown what suppliers ask. */
export function useSeesPrices(): boolean {
  return useSession().data?.sees_prices ?? true;
}

/** Whether the signed-in person is shown what things cost. */
export function useSeesCosts(): boolean {
  return useSession().data?.sees_costs ?? true;
}

/** Nothing that one person was shown stays behind for the next. */
function keep(queries: QueryClient, session: Schemas["Session"]) {
  queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
  queries.setQueryData(["session"], known(session));
}

export function useSignIn() {
  const queries = useQueryClient();
  return useMutation<Schemas["Session"], Refusal, Schemas["SignIn"]>({
    mutationFn: (body) => answer(client.POST("/api/session", { body })),
    onSuccess: (session) => keep(queries, session),
  });
}

/** Takes a session that goes on where one ended on its own: all that is on screen stays. */
function useGoOn() {
  const queries = useQueryClient();
  const untrue = useUntrue();
  return (session: Schemas["Session"]) => {
    queries.setQueryData(["session"], known(session));
    untrue("everything");
  };
}

/** Signs the same person in again, where the session ended on its own. */
export function useSignInAgain(user: string) {
  const goOn = useGoOn();
  return useMutation<Schemas["Session"], Refusal, { password: string; code: string }>({
    mutationFn: (proof) => answer(client.POST("/api/session", { body: { user, ...proof } })),
    onSuccess: goOn,
  });
}

/** Who is in this browser by now, asked where a session has ended; once the same person came in again in another window, this one goes on. */
export function useBackElsewhere(user: string, ended: boolean, back: () => void) {
  const goOn = useGoOn();
  const elsewhere = useQuery({
    queryKey: ["session", "elsewhere"],
    queryFn: async () => {
      const session = await answer(client.GET("/api/session"));
      if (session.user === user) {
        goOn(session);
        back();
      }
      return session;
    },
    enabled: ended,
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: "always",
  });
  const { refetch } = elsewhere;
  useEffect(() => {
    const ask = () => void refetch();
    if (ended) changed.addEventListener("message", ask);
    return () => changed.removeEventListener("message", ask);
  }, [ended, refetch]);
  return elsewhere.data;
}

export function useSignOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => answer(client.DELETE("/api/session")),
    onSuccess: (session) => {
      keep(queries, session);
      changed.postMessage("");
    },
  });
}

/** Units and currency: the same for every screen. */
export function useReference() {
  return useQuery({
    queryKey: ["reference"],
    queryFn: () => answer(client.GET("/api/parts/reference")),
    staleTime: Infinity,
  });
}
