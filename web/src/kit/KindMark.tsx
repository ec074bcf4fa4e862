const MARKS: Record<string, string> = {
  made: "M2 8.5h8M3.5 8.5V4l2.5 2V4l2.5 2v2.5",
  bought: "M2.5 4h7v5h-7zM2.5 6h7",
  phantom: "M2.5 4h2M6.5 4h3M2.5 9h3M7.5 9h2M2.5 4v2M9.5 6v3",
  charge: "M6 2.5v7M8.5 4c-1-1-5-1-5 .8S8.700 6 8.700 8 4 9.500 3.300 8",
  "by-product": "M9.500 6a3.500 3.500 0 1 1-1-2.500M8.700 1.800v2h-2",
  text: "M3 3.500h6M3 6h6M3 8.500h4",
};

/** A part's or line's kind: a small mark and its word. */
export function KindMark({ kind, note }: { kind: string; note?: string }) {
  return (
    <span className="flex min-w-0 items-center gap-1 text-[12px] text-ink-3">
      <svg
        width="12"
        height="12"
        viewBox="0 0 12 12"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.1"
        className="shrink-0"
        aria-hidden="true"
      >
        <path d={MARKS[kind] ?? ""} />
      </svg>
      <span className="truncate">{note ?? kind}</span>
    </span>
  );
}
