import { useQuery } from "@tanstack/react-query";
import { type Ref, useState } from "react";
import type { WorkingOut } from "../lib/api";
import { day, quantity } from "../lib/number";
import { Word } from "./Word";

const SIGNS: Record<string, [first: string, next: string]> = {
  sum: ["", "+"],
  product: ["", "×"],
  quotient: ["", "÷"],
  difference: ["", "−"],
  "larger of": ["", "or"],
  "rounded up": ["⌈⌉", ""],
};

function shown(working: WorkingOut): string {
  // A share such as a yield or an overhead is kept as a fraction and read as a percentage.
  const value = working.value;
  return Math.abs(value) >= 0.01 || value === 0 ? quantity(value, 4) : quantity(value, 9);
}

/** The arithmetic that made a figure. Underlined operands open; inputs say who set them. */
export function WorkingView({
  title,
  about,
  figure,
  ask,
  onLeave,
  panel,
  along,
}: {
  title: string;
  /** What the figure holds for; another one is asked for afresh. */
  about: unknown[];
  figure: string | null;
  ask: (figure: string) => Promise<WorkingOut>;
  onLeave?: () => void;
  panel?: Ref<HTMLElement>;
  /** What is opened, where another working is opened along with this one. */
  along?: [path: string[], setPath: (path: string[]) => void];
}) {
  // What was opened holds for one figure; another under the cursor starts afresh.
  const [opened, setOpened] = useState<{ figure: string | null; path: string[] }>({ figure, path: [] });
  const own = opened.figure === figure ? opened.path : [];
  const [path, setPath] = along ?? [own, (next: string[]) => setOpened({ figure, path: next })];
  const at = path.at(-1) ?? figure;
  const working = useQuery({
    queryKey: ["working", ...about, at],
    queryFn: () => ask(at!),
    enabled: at !== null,
    staleTime: 0,
    placeholderData: (old) => old,
  });
  return (
    <section
      ref={panel}
      tabIndex={-1}
      aria-label={title}
      className="flex min-h-0 flex-col"
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        path.length > 0 ? setPath(path.slice(0, -1)) : onLeave?.();
      }}
    >
      <div className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold text-blue">
          <Word of="working">{title}</Word>
        </h2>
        {path.length > 0 && (
          <button
            type="button"
            className="text-[12px] text-blue hover:underline"
            onClick={() => setPath(path.slice(0, -1))}
          >
            ← back to what it is part of
          </button>
        )}
      </div>
      {at === null ? (
        <p className="mt-1 text-ink-2">Put the cursor on a figure to see how it was made.</p>
      ) : working.error ? (
        <p className="mt-1 text-ink-2">{working.error.message}</p>
      ) : (
        working.data && (
          <div aria-busy={working.isPlaceholderData} className={working.isPlaceholderData ? "opacity-60" : ""}>
            <p className="mt-1 mb-1.5 text-[15px] leading-tight font-semibold">{working.data.label}</p>
            <ul className="border-t border-hair">
              <Operands key={at} of={working.data} depth={0} onOpen={(next) => setPath([...path, next])} />
            </ul>
            <p className="flex justify-between border-t border-ink pt-1.5 font-bold">
              <span>{working.data.note || "makes"}</span>
              <span>
                {shown(working.data)} <span className="font-normal text-ink-3">{working.data.unit}</span>
              </span>
            </p>
          </div>
        )
      )}
    </section>
  );
}

/** How many operands stand there at first, and how many come each time that more are asked for. */
const SHOWN = 60;
const MORE = 240;

function Operands({ of, depth, onOpen }: { of: WorkingOut; depth: number; onOpen: (figure: string) => void }) {
  const [first, next] = SIGNS[of.operator] ?? ["", ""];
  const [most, setMost] = useState(SHOWN);
  // One more than are shown is shown, too: to ask for it would take as much room.
  const rest = of.operands.length > most + 1 ? of.operands.slice(most) : [];
  return (
    <>
      {of.operands.slice(0, of.operands.length - rest.length).map((operand, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: operands have an order and nothing else
        <li key={index}>
          <div className="flex items-baseline gap-1.5 border-b border-hair py-1" style={{ paddingLeft: depth * 14 }}>
            <span className="w-4 shrink-0 text-ink-3">{index === 0 ? first : next}</span>
            <span className="min-w-0 flex-1">
              {operand.figure ? (
                <button
                  type="button"
                  className="text-left underline decoration-bar-line underline-offset-3 hover:text-blue"
                  onClick={() => onOpen(operand.figure!)}
                >
                  {operand.label}
                </button>
              ) : (
                operand.label
              )}
              {operand.note && <small className="block text-[11.5px] text-ink-3">{operand.note}</small>}
              {operand.source && (
                <small className="block text-[11.5px] text-ink-3">{sourceWords(operand.source)}</small>
              )}
            </span>
            <span className="text-right font-semibold whitespace-nowrap">
              {shown(operand)} <span className="font-normal text-ink-3">{operand.unit}</span>
            </span>
          </div>
          {operand.operands.length > 0 && (
            <ul>
              <Operands of={operand} depth={depth + 1} onOpen={onOpen} />
            </ul>
          )}
        </li>
      ))}
      {rest.length > 0 && (
        <li className="flex items-baseline gap-1.5 border-b border-hair py-1" style={{ paddingLeft: depth * 14 }}>
          <span className="w-4 shrink-0 text-ink-3">{next}</span>
          <button
            type="button"
            className="min-w-0 flex-1 text-left text-blue hover:underline"
            onClick={() => setMost(most + MORE)}
          >
            {quantity(rest.length)} more: show {rest.length > MORE ? `the next ${MORE}` : "them"}
          </button>
          {of.operator === "sum" && (
            <span className="text-right font-semibold whitespace-nowrap">
              {quantity(rest.reduce((sum, operand) => sum + operand.value, 0))}{" "}
              <span className="font-normal text-ink-3">{of.unit}</span>
            </span>
          )}
        </li>
      )}
      {of.operands.length === 0 && <li className="py-1 text-ink-2">{of.note || "nothing adds to it"}</li>}
    </>
  );
}

/** Who set an input, when, and with which words. */
function sourceWords({ by, at, reason }: { by: string; at: string; reason: string }): string {
  const when = at ? `on ${day(at)}` : "";
  const set = [by && `by ${by}`, when].filter(Boolean).join(" ");
  return [set && at ? `set ${set}` : "", reason].filter(Boolean).join(", ");
}
