import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";

type Words = Schemas["RecordWords"];
type FieldWord = Words["fields"][number];

const TABLES: [string, string][] = [
  ["parts", "Parts"],
  ["sheets", "Build sheets"],
  ["lines", "Lines"],
  ["operations", "Operations"],
];
const BOX = "h-7 min-w-0 border border-hair-2 bg-paper px-1.5";

/** Which of their words is which field of ours, whose each field is by rule, and their words for values. */
export function WordsPanel({ record, onClose }: { record: string; onClose: () => void }) {
  const found = useQuery({
    queryKey: ["handovers", "words", record],
    queryFn: () => answer(client.GET("/api/handover/words", { params: { query: { record } } })),
    staleTime: 0,
  });
  return (
    <Panel
      title={`Words of ${record}`}
      note="A field without a word there does not cross, and is not compared."
      open
      onClose={onClose}
    >
      {found.error && (
        <p role="alert" className="pt-3 text-bad">
          {found.error.message}
        </p>
      )}
      {found.data && <Edited key={found.data.version} record={record} words={found.data} onClose={onClose} />}
    </Panel>
  );
}

function Edited({ record, words, onClose }: { record: string; words: Words; onClose: () => void }) {
  const queries = useQueryClient();
  const [fields, setFields] = useState<FieldWord[]>([...words.fields, ...words.more]);
  const [values, setValues] = useState(words.values);
  const save = useMutation<Words, Refusal, void>({
    mutationFn: () =>
      answer(
        client.PUT("/api/handover/words", {
          params: { query: { record } },
          body: { fields: fields.filter((f) => f.theirs.trim()), values, version: words.version },
        }),
      ),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["handovers"] });
      onClose();
    },
  });
  const set = (field: FieldWord, more: Partial<FieldWord>) =>
    setFields(fields.map((f) => (f === field ? { ...f, ...more } : f)));
  return (
    <form
      className="mt-3 flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      {TABLES.map(([table, title]) => (
        <fieldset key={table}>
          <legend className="pb-1 font-semibold">{title}</legend>
          {fields
            .filter((f) => f.table === table)
            .map((f) => (
              <div key={f.ours} className="grid grid-cols-[1fr_130px_120px] items-center gap-2 py-0.5">
                <span className={f.theirs ? "" : "text-ink-3"}>{f.word}</span>
                <input
                  aria-label={`their word for ${f.word} of ${title.toLowerCase()}`}
                  value={f.theirs}
                  onChange={(event) => set(f, { theirs: event.target.value })}
                  className={`${BOX} font-mono text-[13px]`}
                />
                <select
                  aria-label={`whose ${f.word} is`}
                  value={f.owner}
                  onChange={(event) => set(f, { owner: event.target.value })}
                  className={BOX}
                  disabled={!f.theirs}
                >
                  <option value="">who moved it</option>
                  <option value="ours">always ours</option>
                  <option value="theirs">always theirs</option>
                </select>
                {save.error?.of(`${table}.${f.ours}`) && (
                  <p role="alert" className="col-span-3 text-[12px] text-bad">
                    {save.error.of(`${table}.${f.ours}`)}
                  </p>
                )}
              </div>
            ))}
        </fieldset>
      ))}
      {Object.entries(values).map(([name, map]) => (
        <fieldset key={name}>
          <legend className="pb-1 font-semibold">Their words for a {name}</legend>
          <div className="grid grid-cols-2 gap-x-4">
            {Object.entries(map).map(([ours, theirs]) => (
              <label key={ours} className="grid grid-cols-[72px_1fr] items-center gap-2 py-0.5">
                {ours}
                <input
                  value={theirs}
                  onChange={(event) => setValues({ ...values, [name]: { ...map, [ours]: event.target.value } })}
                  className={`${BOX} font-mono text-[13px]`}
                />
              </label>
            ))}
          </div>
        </fieldset>
      ))}
      {save.error && (
        <p role="alert" className="text-bad">
          {save.error.message}
        </p>
      )}
      <span className="sticky -bottom-5 -mb-5 bg-paper pt-2 pb-5">
        <Button type="submit" look="strong" needs="handover" disabled={save.isPending}>
          Keep these words
        </Button>
      </span>
    </form>
  );
}
