/** What the evidence asks a person for just now. */
export interface Asking {
  what: "mend" | "waive" | "ask" | null;
  /** The field that is mended; "" where none was named. */
  field: string;
  start: (what: "mend" | "waive" | "ask", field?: string) => void;
  done: () => void;
}
