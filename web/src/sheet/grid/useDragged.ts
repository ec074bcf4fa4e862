import { type DragEvent, type HTMLAttributes, useCallback, useRef, useState } from "react";
import type { LineRowOnScreen, Row } from "../../model/rows";

/** A line dragged by its item number, and the rows that take it. */
export function useDragged(onDrop: (line: LineRowOnScreen, at: Row) => void) {
  const [dragged, setDragged] = useState<LineRowOnScreen | null>(null);
  const [over, setOver] = useState<string | null>(null);
  const dropped = useRef(onDrop);
  dropped.current = onDrop;
  const end = useCallback(() => {
    setDragged(null);
    setOver(null);
  }, []);
  /** What makes a row of the sheet itself take the line. */
  const dropOn = useCallback(
    (at: Row): HTMLAttributes<HTMLDivElement> =>
      dragged && at.own && (at.kind === "line" || at.kind === "band")
        ? {
            onDragOver: (event: DragEvent) => {
              event.preventDefault();
              setOver(at.key);
            },
            onDrop: (event: DragEvent) => {
              event.preventDefault();
              dropped.current(dragged, at);
              end();
            },
          }
        : {},
    [dragged, end],
  );
  const grip = useCallback(
    (at: LineRowOnScreen): HTMLAttributes<HTMLSpanElement> => ({
      draggable: true,
      onDragStart: (event: DragEvent) => {
        event.dataTransfer.effectAllowed = "move";
        setDragged(at);
      },
      onDragEnd: end,
    }),
    [end],
  );
  return { over, dropOn, grip };
}
