import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type PartOut = Schemas["PartOut"];
export type WorkCenterOut = Schemas["WorkCenterOut"];
export type SheetHead = Schemas["SheetHead"];
export type EditFigures = Schemas["EditFigures"];
export type TableIn = Schemas["TableIn"];
export type WorkingOut = Schemas["WorkingOut"];

export interface FieldProblem {
  place: string;
  message: string;
}

/** Two versions of the same fields, for whoever saved second. */
export interface Stale {
  message: string;
  by: string;
  at: string;
  version: number;
  conflicts: {
    table: string;
    id: string;
    field: string;
    label: string;
    found: string;
    theirs: string;
    yours: string;
  }[];
}

/** Told whenever the server no longer knows who is asking. */
export const sessionEnd = new EventTarget();

/** What the server refused, in the user's words. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly problems: FieldProblem[] = [],
    readonly stale?: Stale,
  ) {
    super(message);
  }

  /** The message for one field, if it has one. */
  of(place: string): string | undefined {
    return this.problems.find((p) => p.place === place)?.message;
  }
}

/** The token of this page, which every write carries; behind TLS its cookie has another name. */
function pageToken(): string {
  return document.cookie.match(/(?:^|; )(?:__Host-)?csrftoken=([^;]*)/)?.[1] ?? "";
}

let person = "";

/** Says on whose screen all that is sent from now on was made; the server refuses it where somebody else is signed in meanwhile. */
export function writtenBy(user: string) {
  person = user;
}

/** What every write carries. */
export function ofThisPage(): Record<string, string> {
  return { "X-CSRFToken": pageToken(), ...(person && { "X-Person": inAddress(person) }) };
}

/** As the server writes it: it leaves fewer characters as they are than a browser does. */
function inAddress(text: string): string {
  return encodeURIComponent(text).replace(/[!'()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`);
}

export const client = createClient<paths>({ baseUrl: "" });
client.use({
  async onRequest({ request }) {
    if (request.method !== "GET") {
      // It may have gone with the session while the screen stood open.
      if (!pageToken()) await fetch("/api/session");
      for (const [name, value] of Object.entries(ofThisPage())) request.headers.set(name, value);
    }
    return request;
  },
});

/** The data of an answer; throws a Refusal for anything but a success. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result: { data?: T; error?: unknown; response: Response };
  try {
    result = await call;
  } catch {
    throw new Refusal(0, "The server cannot be reached. What you typed is still here; try again in a moment.");
  }
  if (result.response.ok) return result.data as T;
  throw refusal(result.response.status, result.error);
}

/** Change a field of a part where only its number is at hand: from the version it has now. */
export async function changePart(number: string, fields: Partial<Schemas["PartIn"]>): Promise<PartOut> {
  const params = { query: { number } };
  const { version } = await answer(client.GET("/api/parts/one", { params }));
  return answer(client.PATCH("/api/parts/one", { params, body: { ...fields, version } as Schemas["PartIn"] }));
}

/** A refusal out of an error's body. */
export function refusal(status: number, body: unknown): Refusal {
  const said = (typeof body === "object" && body ? body : {}) as {
    message?: string;
    detail?: string;
    problems?: FieldProblem[];
    conflicts?: Stale["conflicts"];
  };
  if (status === 401) {
    sessionEnd.dispatchEvent(new Event("ended"));
    return new Refusal(401, said.message ?? "You are signed out. Sign in again; what you typed is still here.");
  }
  const message = said.message ?? said.detail ?? `The server could not do this (${status}). Nothing was saved.`;
  return new Refusal(status, message, said.problems ?? [], status === 409 ? (said as unknown as Stale) : undefined);
}
