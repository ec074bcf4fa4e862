import { useCallback } from "react";
import { useSay } from "../kit/Says";
import { answer, changePart, client, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

/** Draft parts: those that typing made on the way are said, and offered to be taken away when the step is undone; what is typed of one on its line. */
export function useParts() {
  const say = useSay();
  const untrue = useUntrue();
  const made = useCallback(
    (numbers: string[]) =>
      say(
        `Made ${numbers.join(", ")} as ${numbers.length === 1 ? "a draft part" : "draft parts"}. What it is, its kind and its cost can be typed on its line; Alt Enter opens it.`,
      ),
    [say],
  );
  const change = useCallback(
    (number: string, fields: Partial<Schemas["PartIn"]>, refused: (message: string) => void) =>
      changePart(number, fields).then(
        () => {
          untrue("part");
        },
        (error: Error) => refused(error.message),
      ),
    [untrue],
  );
  const left = useCallback(
    (numbers: string[]) => {
      const one = numbers.length === 1;
      const named = numbers.join(", ");
      say(`${named} ${one ? "was made as a draft part and is" : "were made as draft parts and are"} still there.`, {
        act: {
          label: "Take away",
          run: () =>
            answer(client.POST("/api/parts/drop", { body: { numbers } })).then(
              () => say(`${named} ${one ? "is" : "are"} gone; the history keeps what was there.`),
              (error: Error) => say(error.message, { bad: true }),
            ),
        },
      });
    },
    [say],
  );
  return { made, left, change };
}
