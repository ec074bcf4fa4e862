/** Four strokes and a bar. */
export function TallyMark({ size = 26 }: { size?: number }) {
  return (
    <svg
      width={size}
      height={(size * 20) / 26}
      viewBox="0 0 26 20"
      strokeWidth="2"
      strokeLinecap="round"
      fill="none"
      aria-hidden="true"
    >
      <path d="M4 2v16M9 2v16M14 2v16M19 2v16" stroke="currentColor" />
      <path d="M1 15L23 5" stroke="#8da4de" />
    </svg>
  );
}
