import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Ask } from "../../kit/Ask";
import { Button } from "../../kit/Button";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useUntrue } from "../../lib/untrue";

/** Takes a part away that nothing names; where something does, the server says what. */
export function TakeAway({ number, onGone }: { number: string; onGone: () => void }) {
  const [asking, setAsking] = useState(false);
  const say = useSay();
  const untrue = useUntrue();
  const drop = useMutation<Schemas["Count"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/parts/drop", { body: { numbers: [number] } })),
    onSuccess: () => {
      say(`${number} is gone; the history keeps what was there.`);
      untrue("part");
      onGone();
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  return (
    <div>
      <Button needs="parts" look="quiet" className="!px-0" disabled={drop.isPending} onClick={() => setAsking(true)}>
        Take the part away …
      </Button>
      <Ask
        open={asking}
        title={`Take ${number} away?`}
        yes="Take away"
        onYes={() => drop.mutate()}
        onClose={() => setAsking(false)}
      >
        Only a part can go that nothing names: no line, no sheet, no stock, no order and no round. Its number is free
        again; the history keeps what was there.
      </Ask>
    </div>
  );
}
