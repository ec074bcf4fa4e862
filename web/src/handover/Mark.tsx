/** Two strokes, ours on the left and theirs on the right: the one that moved is drawn lower and in ink; the one that is missing is left out. */
export function Mark({ verdict }: { verdict: string }) {
  const ours = { "we moved": 1, "both moved": 1, differs: 1, "only there": -1, "kept by hand": -1 }[verdict] ?? 0;
  const theirs = { "they moved": 1, "both moved": 1, differs: 1, "only here": -1 }[verdict] ?? 0;
  const stroke = (x: number, how: number) =>
    how >= 0 && (
      <path
        d={how ? `M${x} 5v11` : `M${x} 2v11`}
        stroke={
          how
            ? "var(--blue)"
            : verdict.startsWith("only") || verdict === "kept by hand"
              ? "var(--ink)"
              : "var(--hair-2)"
        }
        strokeWidth={how ? 2.2 : 1.6}
      />
    );
  return (
    <svg width="16" height="18" viewBox="0 0 16 18" strokeLinecap="round" fill="none" aria-hidden="true">
      {stroke(5, ours)}
      {stroke(11, theirs)}
      {verdict === "kept by hand" && <circle cx="11" cy="16.2" r="1.4" fill="var(--brass)" />}
    </svg>
  );
}
