import { useEffect, useState } from "react";
import type { Schemas } from "../../lib/api";
import { typed } from "../../lib/number";
import type { Build } from "./builds";

/** One product of a set of builds: how many, with which options. */
export function BuildField({
  build,
  options,
  onKeep,
  onRemove,
}: {
  build: Build;
  options: Schemas["OptionOut"][];
  onKeep: (build: Build) => void;
  onRemove: () => void;
}) {
  const [text, setText] = useState(build.quantity);
  useEffect(() => setText(build.quantity), [build.quantity]);
  const keep = () => typed(text) !== build.quantity && onKeep({ ...build, quantity: typed(text) });
  return (
    <span className="flex h-8 items-center gap-1.5 border border-hair-2 bg-paper pl-1">
      <input
        className="h-6 w-14 border-b border-hair-2 bg-transparent text-right font-semibold"
        aria-label={`How many ${build.part}`}
        inputMode="decimal"
        placeholder="one"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === "Enter" && keep()}
      />
      <span className="pn">{build.part}</span>
      {options.map((option) => {
        const on = build.options.includes(option.code);
        return (
          <button
            key={option.code}
            type="button"
            aria-pressed={on}
            title={option.name}
            className={`rounded-[3px] border px-1 text-[12px] leading-[18px] ${on ? "border-blue bg-blue text-paper" : "border-hair-2 hover:border-blue"}`}
            onClick={() =>
              onKeep({
                ...build,
                options: on
                  ? build.options.filter((c) => c !== option.code)
                  : [...build.options.filter((c) => !option.not_with.includes(c)), option.code].sort(),
              })
            }
          >
            {option.code}
          </button>
        );
      })}
      <button
        type="button"
        aria-label={`Take ${build.part} out`}
        className="h-full px-1.5 hover:text-bad"
        onClick={onRemove}
      >
        ×
      </button>
    </span>
  );
}
