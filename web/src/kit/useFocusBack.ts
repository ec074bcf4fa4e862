import { useRef } from "react";

/**
 * Where the keyboard was before a dialog opened, and back to it when it closes. Goes into the content of the dialog; dialogs
 * that no button of theirs opened would leave the focus nowhere.
 */
export function useFocusBack() {
  const before = useRef(document.activeElement as HTMLElement | null);
  return {
    onOpenAutoFocus: (event: Event) => {
      // A field that asks for the focus has it by now; then it stood where it was when the dialog was first drawn.
      const now = document.activeElement as HTMLElement | null;
      if (!(event.target as HTMLElement).contains(now)) before.current = now;
    },
    onCloseAutoFocus: (event: Event) => {
      event.preventDefault();
      // What opened it may be gone, like an entry of a menu; then the list or grid of the screen takes over.
      const held = before.current;
      const grid = document.querySelector<HTMLElement>("[role=treegrid], main [tabindex='0']");
      (held?.isConnected && held !== document.body ? held : grid)?.focus();
    },
  };
}
