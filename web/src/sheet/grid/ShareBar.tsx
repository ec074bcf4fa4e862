import { ELEMENTS, elementColour } from "../../lib/elements";

/** A thin bar: how much of the whole this is, by element. */
export function ShareBar({
  elements,
  scale,
  total,
}: {
  elements: number[] | null | undefined;
  scale: number;
  total: number;
}) {
  if (!elements || total <= 0) return null;
  return (
    <span className="flex h-[9px] w-full bg-sunk" aria-hidden="true">
      {ELEMENTS.map((element, i) => {
        const share = ((elements[i] ?? 0) * scale) / total;
        return share > 0.0005 ? (
          <i
            key={element}
            className={element === "scrap" ? "hatched" : ""}
            style={{ width: `${Math.min(share, 1) * 100}%`, backgroundColor: elementColour(element) }}
          />
        ) : null;
      })}
    </span>
  );
}
