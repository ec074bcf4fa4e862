import { ELEMENTS, elementColour } from "../../lib/elements";
import type { ByElement } from "../../model/wire";

/** A thin bar: how much of the whole this is, by element. */
export function ShareBar({
  elements,
  scale,
  total,
}: {
  elements: ByElement | undefined;
  scale: number;
  total: number;
}) {
  if (!elements || total <= 0) return null;
  return (
    <span className="flex h-[9px] w-full bg-sunk" aria-hidden="true">
      {ELEMENTS.map((element) => {
        const share = ((elements[element] ?? 0) * scale) / total;
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
