import { type FormEvent, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import type { Schemas } from "../lib/api";
import { useHandoverVerbs } from "./useHandover";

/** What a part of ours is called over there; once it is said, they are read again under it. */
export function KnownAs({ id, part }: { id: number; part: Schemas["SidePart"] }) {
  const { knowAs } = useHandoverVerbs(id);
  const [code, setCode] = useState(part.known_as || part.number);
  const wanted = code.trim() === part.number ? "" : code.trim();
  function submit(event: FormEvent) {
    event.preventDefault();
    if (wanted !== part.known_as) knowAs.mutate({ part: part.number, code: wanted });
  }
  return (
    <form className="flex items-end gap-2 border-t border-hair py-2" onSubmit={submit}>
      <Field label="Over there it is called" error={knowAs.error?.message}>
        {(props) => (
          <input
            {...props}
            className="pn h-8 w-[200px] border border-hair-2 bg-paper px-2"
            maxLength={64}
            value={code}
            onChange={(event) => setCode(event.target.value)}
          />
        )}
      </Field>
      <Button type="submit" needs="handover" disabled={wanted === part.known_as || knowAs.isPending}>
        Keep this number
      </Button>
    </form>
  );
}
