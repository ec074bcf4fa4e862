export interface Cursor {
  row: string;
  column: string;
}

/** A cell being edited: what it starts from, and why it was refused before. */
export interface Editing {
  text: string | null;
  error?: string;
}

export interface GridHandle {
  focus: () => void;
}
