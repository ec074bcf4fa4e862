/** A finding's weight by shape and word: a full square stops, a ring is worth a look. */
export function SeverityMark({ severity, word = true }: { severity: string; word?: boolean }) {
  const stops = severity === "stops";
  return (
    <span className={`inline-flex items-center gap-1.5 ${stops ? "font-semibold text-bad" : "text-brass"}`}>
      <svg width="9" height="9" viewBox="0 0 9 9" aria-hidden="true">
        {stops ? (
          <rect width="9" height="9" fill="currentColor" />
        ) : (
          <circle cx="4.5" cy="4.5" r="3.5" fill="none" stroke="currentColor" strokeWidth="2" />
        )}
      </svg>
      {word ? stops ? "stops" : "look" : <span className="sr-only">{stops ? "stops" : "look"}</span>}
    </span>
  );
}
