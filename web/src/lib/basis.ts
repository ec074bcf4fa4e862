import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import { addressNow } from "./address";

/** What the figures on screen hold for; it lives in the address. */
export interface Basis {
  quantity: string;
  day: string;
  options: string;
  drafts: boolean;
  /** inputs (empty), standards, level, or round:KEY. */
  prices: string;
  /** Inputs that are tried, kept nowhere: table,key,field,value with semicolons between. */
  what_if: string;
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
      prices: params.get("prices") ?? "",
      what_if: params.get("what_if") ?? "",
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
  if (basis.prices) params.set("prices", basis.prices);
  if (basis.what_if) params.set("what_if", basis.what_if);
  params.set("drafts", basis.drafts ? "true" : "false");
  return params.toString();
}

/** An address of another screen that holds for the same day, drafts and options as the one it is opened from. */
export function carried(path: string, basis: Pick<Basis, "day" | "drafts"> & Partial<Basis>): string {
  const params = new URLSearchParams({ drafts: basis.drafts ? "1" : "0" });
  if (basis.day) params.set("day", basis.day);
  return `${path}${path.includes("?") ? "&" : "?"}${params}`;
}

/** The sheet of a part, as above. */
export function sheetAddress(number: string, basis: Pick<Basis, "day" | "drafts">): string {
  return carried(`/sheets/${encodeURIComponent(number)}`, basis);
}

/** One input that is tried. */
export interface Tried {
  table: string;
  key: string;
  field: string;
  value: string;
}

/** What a basis tries, and back into its text. */
export function readTried(text: string): Tried[] {
  return text
    .split(";")
    .filter(Boolean)
    .map((piece) => {
      const [table = "", key = "", field = "", value = ""] = piece.split(",");
      return { table, key, field, value };
    });
}

export function writeTried(tried: Tried[]): string {
  return tried.map((t) => [t.table, t.key, t.field, t.value].join(",")).join(";");
}

/** What is tried with one more, in place of another value of the same input. */
export function withTried(text: string, more: Tried): string {
  const others = readTried(text).filter((t) => t.table !== more.table || t.key !== more.key || t.field !== more.field);
  return writeTried(more.value === "" ? others : [...others, more]);
}
