import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import { addressNow } from "./address";

/** What the figures on screen hold for; it lives in the address. */
export interface Basis {
  quantity: string;
  day: string;
  options: string;
  drafts: boolean;
}

/** The basis in the address, and a way to change it there. `drafts` unset takes `draftsByDefault`. */
export function useBasis(draftsByDefault: boolean): [Basis, (change: Partial<Basis>) => void] {
  const [params, setParams] = useSearchParams();
  const basis = useMemo(
    () => ({
      quantity: params.get("quantity") ?? "",
      day: params.get("day") ?? "",
      options: params.get("options") ?? "",
      drafts: params.has("drafts") ? params.get("drafts") === "1" : draftsByDefault,
    }),
    [params, draftsByDefault],
  );
  const change = useCallback(
    (next: Partial<Basis>) =>
      setParams(
        () => {
          const fresh = addressNow();
          for (const [name, value] of Object.entries(next)) {
            const text = typeof value === "boolean" ? (value ? "1" : "0") : value;
            if (text) fresh.set(name, text);
            else fresh.delete(name);
          }
          return fresh;
        },
        { replace: true },
      ),
    [setParams],
  );
  return [basis, change];
}

/** A basis as the query of an address. */
export function basisQuery(basis: Basis): string {
  const params = new URLSearchParams();
  if (basis.quantity) params.set("quantity", basis.quantity);
  if (basis.day) params.set("day", basis.day);
  if (basis.options) params.set("options", basis.options);
  params.set("drafts", basis.drafts ? "true" : "false");
  return params.toString();
}
