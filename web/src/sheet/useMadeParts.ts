import { useCallback } from "react";
import { useSay } from "../kit/Says";
import { answer, client } from "../lib/api";

/** Draft parts that typing made on the way: said, and offered to be taken away when the step is undone. */
export function useParts() {
  const say = useSay();
  const made = useCallback(
    (numbers: string[]) =>
      say(
        `Made ${numbers.join(", ")} as ${numbers.length === 1 ? "a draft part" : "draft parts"}. Alt Enter on the line opens it.`,
      ),
    [say],
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
  return { made, left };
}
