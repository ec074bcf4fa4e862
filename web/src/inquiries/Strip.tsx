import { Button } from "../kit/Button";
import { Strokes } from "../kit/Strokes";
import { counted, type Filter, type InquiryLine } from "../model/inquiry";

/** What is left of what: how far the lines are, and a filter for each thing that is left to do. */
export function Strip({
  lines,
  filter,
  onFilter,
  words,
  onWords,
  onCertain,
  onNewParts,
}: {
  lines: InquiryLine[];
  filter: Filter;
  onFilter: (filter: Filter) => void;
  words: string;
  onWords: (words: string) => void;
  onCertain: () => void;
  onNewParts: () => void;
}) {
  const counts = counted(lines);
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
      <Strokes done={counts.all - counts.undecided} of={counts.all} what="lines decided" />
      <fieldset className="flex gap-3" aria-label="What is left to do">
        {(Object.keys(counts) as Filter[])
          .filter((name) => counts[name] > 0 || name === filter || name === "undecided")
          .map((name) => (
            <button
              key={name}
              type="button"
              aria-pressed={name === filter}
              onClick={() => onFilter(name === filter ? "all" : name)}
              className={`border-b-2 ${name === filter ? "border-blue font-semibold text-blue" : "border-transparent text-ink-2 hover:text-ink"}`}
            >
              {name} {counts[name]}
            </button>
          ))}
      </fieldset>
      {counts.certain > 0 && (
        <Button needs="inquiries" className="!min-h-[26px]" onClick={onCertain}>
          Take the {counts.certain} certain
          <kbd className="font-mono text-[11px] text-ink-3">T</kbd>
        </Button>
      )}
      {counts["nothing like it"] > 1 && (
        <Button needs="parts" look="quiet" className="!min-h-[26px]" onClick={onNewParts}>
          New parts of {counts["nothing like it"]} …
        </Button>
      )}
      <input
        className="field ml-auto !min-h-[26px] max-w-[190px]"
        type="search"
        aria-label="Find a line"
        placeholder="find a line  /"
        value={words}
        onChange={(event) => onWords(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") onWords("");
        }}
      />
    </div>
  );
}
