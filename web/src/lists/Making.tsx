import { useState } from "react";
import type { Schemas } from "../lib/api";
import type { Wanted } from "./wanted";

type List = Schemas["MadeListOut"];

const KIND_WORDS: Record<string, string> = {
  byproduct: "by-product",
  text: "notes",
  operation: "operations",
};

/** How the list is made: how rows stand, which columns it has, what is kept out. */
export function Making({
  words,
  list,
  wanted,
  onChange,
}: {
  words: Schemas["ListWordsOut"];
  list: List | undefined;
  wanted: Wanted;
  onChange: (next: Partial<Wanted>) => void;
}) {
  const [find, setFind] = useState("");
  const on = new Set(wanted.columns.map((c) => c.key));
  const sought = words.columns.filter((c) => `${c.title} ${c.words}`.toLowerCase().includes(find.trim().toLowerCase()));
  const turn = (key: string, title: string) =>
    onChange({
      columns: on.has(key) ? wanted.columns.filter((c) => c.key !== key) : [...wanted.columns, { key, title }],
      ...(wanted.sort === key ? { sort: "", down: false } : {}),
    });
  const out = new Set(wanted.keep_out);
  const keep = (what: string) =>
    onChange({ keep_out: out.has(what) ? wanted.keep_out.filter((w) => w !== what) : [...wanted.keep_out, what] });
  const check = (label: string, checked: boolean, onTurn: () => void, title = "", off = false) => (
    <label key={label} className="flex min-h-6 items-center gap-1.5" title={title}>
      <input type="checkbox" checked={checked} disabled={off} onChange={onTurn} />
      <span className="truncate">{label}</span>
    </label>
  );
  const head = "pt-3 pb-1 font-semibold";
  return (
    <section
      aria-label="How it is made"
      className="noprint w-[224px] shrink-0 overflow-y-auto border-r border-hair bg-paper px-3 pb-4"
    >
      <h2 className={head}>Rows</h2>
      {Object.entries(words.arrangements).map(([name, said]) => (
        <label key={name} className="flex min-h-6 items-start gap-1.5 py-0.5">
          <input
            type="radio"
            name="arrangement"
            className="mt-0.5"
            checked={wanted.arrangement === name}
            onChange={() => onChange({ arrangement: name })}
          />
          <span>{said}</span>
        </label>
      ))}
      <h2 className={head}>Columns</h2>
      <input
        type="search"
        className="field mb-1 !min-h-[26px] w-full"
        aria-label="Find a column"
        placeholder="find a column …"
        value={find}
        onChange={(event) => setFind(event.target.value)}
      />
      {sought.map((c) =>
        // A list has at least one.
        check(c.title, on.has(c.key), () => turn(c.key, c.title), c.words, on.size === 1 && on.has(c.key)),
      )}
      {list && (list.kinds.length > 1 || list.classes.length > 0 || out.size > 0) && (
        <>
          <h2 className={head} title="with all that stands beneath it">
            Kept out
          </h2>
          {list.kinds.map((kind) =>
            check(KIND_WORDS[kind] ?? kind, out.has(`kind:${kind}`), () => keep(`kind:${kind}`)),
          )}
          {list.classes.map((name) => check(`class ${name}`, out.has(`class:${name}`), () => keep(`class:${name}`)))}
          {wanted.keep_out
            .filter((what) => what.startsWith("part:"))
            .map((what) => check(what.slice(5), true, () => keep(what)))}
        </>
      )}
      <h2 className={head}>Decimal sign of text</h2>
      <div className="flex gap-4">
        {[
          [".", "1.5"],
          [",", "1,5"],
        ].map(([sign, said]) => (
          <label key={sign} className="flex min-h-6 items-center gap-1.5">
            <input
              type="radio"
              name="decimal"
              checked={wanted.decimal === sign}
              onChange={() => onChange({ decimal: sign! })}
            />
            {said}
          </label>
        ))}
      </div>
    </section>
  );
}
