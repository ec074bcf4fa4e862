import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { type InquiryLine, OF_PART } from "../model/inquiry";
import type { Evidence } from "./states";
import { useAfterWrite } from "./useInquiry";

/** What of a line can be set right, by its field. */
const FIELDS: [field: string, word: string][] = [
  ["quantity", "quantity"],
  ["unit", "unit"],
  ["designators", "designators"],
  ["description", "description"],
  ["part", "number"],
  ["maker_number", "maker's number"],
  ["maker", "maker"],
  ["level", "level"],
  ["not_fitted", "not fitted (yes or no)"],
  ["customer_supplied", "they supply it (yes or no)"],
  ["unit_cost", "unit cost"],
  ["scrap_percent", "scrap, %"],
  ["note", "note"],
  ...OF_PART,
];

/** Sets right what a line says; the sender's own word stays beside it. */
export function Mend({
  id,
  line,
  beside,
  field: first,
  onDone,
}: {
  id: number;
  line: InquiryLine;
  beside: Evidence;
  /** The field that is mended; "" where none was named. */
  field: string;
  onDone: () => void;
}) {
  const after = useAfterWrite(id);
  const [field, setField] = useState(FIELDS.some(([n]) => n === first) ? first : "quantity");
  const there = beside.texts.find((t) => t.field === field);
  const [text, setText] = useState<string | null>(null);
  const mend = useMutation<Schemas["EvidenceOut"], Refusal, string | null>({
    mutationFn: (words) =>
      answer(
        client.POST("/api/inquiries/{inquiry_id}/lines/{line_id}/mend", {
          params: { path: { inquiry_id: id, line_id: line.id } },
          body: { seen: line.stamp, field, text: words },
        }),
      ),
    onSuccess: async () => {
      await after();
      onDone();
    },
  });
  return (
    <form
      className="mt-1.5 flex flex-col gap-1.5 border-t border-hair pt-1.5"
      aria-label="Mend the line"
      onSubmit={(event) => {
        event.preventDefault();
        mend.mutate(text ?? there?.text ?? "");
      }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") onDone();
      }}
    >
      <div className="flex gap-1.5">
        <select
          className="field !w-[130px]"
          aria-label="What is mended"
          value={field}
          onChange={(event) => {
            setField(event.target.value);
            setText(null);
          }}
        >
          {FIELDS.map(([name, word]) => (
            <option key={name} value={name}>
              {word}
            </option>
          ))}
        </select>
        <input
          className="field min-w-0 flex-1"
          aria-label="What it is to say"
          autoFocus
          aria-invalid={!!mend.error}
          value={text ?? there?.text ?? ""}
          onFocus={(event) => event.target.select()}
          onChange={(event) => setText(event.target.value)}
        />
      </div>
      {mend.error && (
        <p role="alert" className="text-[12px] text-bad">
          {mend.error.message}
        </p>
      )}
      <div className="flex gap-1.5">
        <Button look="strong" type="submit" className="!min-h-[26px] !px-2" disabled={mend.isPending}>
          Mend
        </Button>
        {there?.own != null && (
          <Button className="!min-h-[26px] !px-2" onClick={() => mend.mutate(null)}>
            As they wrote it
          </Button>
        )}
        <Button look="quiet" className="!min-h-[26px]" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}
