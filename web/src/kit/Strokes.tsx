/** The most strokes that are drawn; each then stands for several things. */
const MOST = 25;

/** How far a thing has come, in tally strokes: four and a bar, what is done in ink, what is left pale. */
export function Strokes({ done, of, what }: { done: number; of: number; what: string }) {
  if (of === 0) return <span className="text-ink-3">no {what} yet</span>;
  const count = Math.min(MOST, of);
  // All are drawn only when all is done.
  const inked = done >= of ? count : Math.floor((done / of) * count);
  const groups = Math.ceil(count / 5);
  return (
    <span className="inline-flex items-baseline gap-2 whitespace-nowrap">
      <svg
        className="self-center"
        width={groups * 27}
        height="16"
        viewBox={`0 0 ${groups * 27} 16`}
        strokeLinecap="round"
        fill="none"
        aria-hidden="true"
      >
        {Array.from({ length: count }, (_, at) => {
          const x = Math.floor(at / 5) * 27;
          const path = at % 5 === 4 ? `M${x + 1} 12L${x + 21} 4` : `M${x + 4 + (at % 5) * 5} 2v12`;
          return (
            <path
              // biome-ignore lint/suspicious/noArrayIndexKey: a stroke is its place
              key={at}
              d={path}
              strokeWidth={at < inked ? 1.8 : 1.2}
              stroke={at < inked ? "var(--blue)" : "var(--hair-2)"}
            />
          );
        })}
      </svg>
      <span>
        {done} <span className="text-ink-3">of {of}</span>
        <span className="sr-only"> {what}</span>
      </span>
    </span>
  );
}
