import { money } from "../lib/number";

/** One step of a bridge: what it is, and by how much it moves. */
export interface Step {
  word: string;
  value: number;
}

const ROW = 24;
const VALUE = 74;

/** With its sign, also in print. */
export function moved(value: number): string {
  return `${value > 0 ? "+" : value < 0 ? "−" : ""}${money(Math.abs(value))}`;
}

/** From one cost to another, step by step; each step begins where the one above it ends. */
export function Bridge({
  before,
  after,
  steps,
  beforeWord = "old",
  afterWord = "new",
  width = 344,
  label = 78,
}: {
  before: number;
  after: number;
  steps: Step[];
  beforeWord?: string;
  afterWord?: string;
  width?: number;
  /** Room for the words. */
  label?: number;
}) {
  const ends: number[] = [];
  let at = before;
  for (const step of steps) {
    at += step.value;
    ends.push(at);
  }
  const all = [before, after, ...ends];
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const span = high - low || 1;
  const room = width - label - VALUE - 16;
  const x = (value: number) => label + 8 + ((value - low) / span) * room;
  const tall = ROW * (steps.length + 2);
  const told = steps.filter((s) => s.value !== 0).map((s) => `${s.word} ${moved(s.value)}`);
  return (
    <svg
      role="img"
      aria-label={`${beforeWord} ${money(before)}; ${told.join(", ") || "nothing moves"}; ${afterWord} ${money(after)}`}
      width={width}
      height={tall}
      className="block max-w-full shrink-0"
    >
      <Total row={0} word={beforeWord} value={before} x={x(before)} width={width} />
      {steps.map((step, i) => {
        const from = i === 0 ? before : ends[i - 1]!;
        const to = ends[i]!;
        const y = ROW * (i + 1);
        const still = step.value === 0;
        return (
          <g key={step.word}>
            <path d={`M${x(from)} ${y - 6}V${y + 6}`} stroke="var(--hair-2)" />
            <text x={0} y={y + 16} fill={still ? "var(--ink-3)" : "var(--ink)"}>
              {step.word}
            </text>
            {!still && (
              <rect
                x={Math.min(x(from), x(to))}
                y={y + 5}
                width={Math.max(1.5, Math.abs(x(to) - x(from)))}
                height={14}
                fill={step.value > 0 ? "var(--brass)" : "var(--blue)"}
              />
            )}
            <text
              x={width}
              y={y + 16}
              textAnchor="end"
              fill={still ? "var(--ink-3)" : step.value > 0 ? "var(--brass)" : "var(--blue)"}
              fontWeight={still ? 400 : 600}
            >
              {still ? "–" : moved(step.value)}
            </text>
          </g>
        );
      })}
      <Total row={steps.length + 1} word={afterWord} value={after} x={x(after)} width={width} />
    </svg>
  );
}

function Total({ row, word, value, x, width }: { row: number; word: string; value: number; x: number; width: number }) {
  const y = ROW * row;
  return (
    <g>
      <text x={0} y={y + 16} fontWeight={600} fill="var(--ink)">
        {word}
      </text>
      <path d={`M${x} ${y + 3}V${y + 21}`} stroke="var(--ink)" strokeWidth={2.5} />
      <text x={width} y={y + 16} textAnchor="end" fontWeight={700} fill="var(--ink)">
        {money(value)}
      </text>
    </g>
  );
}

/** The same at a glance: one small bar a step, up or down. */
export function SmallBridge({ values }: { values: number[] }) {
  const most = Math.max(...values.map(Math.abs));
  return (
    <svg width={values.length * 12} height={20} aria-hidden="true">
      <path d={`M0 10.5H${values.length * 12}`} stroke="var(--hair-2)" />
      {values.map((value, i) => {
        const size = value === 0 ? 0 : Math.max(1.5, (Math.abs(value) / (most || 1)) * 9);
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: causes have their order and nothing else
            key={i}
            x={i * 12 + 2}
            width={8}
            y={value > 0 ? 10 - size : 11}
            height={size}
            fill={value > 0 ? "var(--brass)" : "var(--blue)"}
          />
        );
      })}
    </svg>
  );
}
