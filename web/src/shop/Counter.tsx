/** A count for gloves: one more, one less, all of them, or typed. */
export function Counter({
  label,
  value,
  most,
  bad,
  onChange,
}: {
  label: string;
  value: number;
  most?: number;
  bad?: boolean;
  onChange: (value: number) => void;
}) {
  const button = "min-h-14 min-w-14 border border-hair-2 text-[24px] font-bold";
  return (
    <div className="flex flex-col gap-1">
      <span className={bad && value > 0 ? "font-semibold text-bad" : ""}>{label}</span>
      <span className="flex">
        <button
          type="button"
          aria-label={`One less ${label}`}
          className={button}
          onClick={() => onChange(Math.max(0, value - 1))}
        >
          −
        </button>
        <input
          className="field !min-h-14 !w-[84px] !rounded-none text-center !text-[24px] font-bold"
          aria-label={label}
          inputMode="numeric"
          value={value}
          onFocus={(event) => event.target.select()}
          onChange={(event) => onChange(Number(event.target.value.replace(/[^\d.]/g, "")) || 0)}
        />
        <button type="button" aria-label={`One more ${label}`} className={button} onClick={() => onChange(value + 1)}>
          +
        </button>
        {most !== undefined && most > 0 && (
          <button type="button" className={`${button} ml-2 px-4 !text-[18px]`} onClick={() => onChange(most)}>
            all {most}
          </button>
        )}
      </span>
    </div>
  );
}
