import type { CSSProperties } from "react";
import { ELEMENTS, elementColour } from "../../lib/elements";
import type { ByElement } from "../../model/wire";

/** What the bars within are shares of. It stands once above them: an edit moves it with nearly every keystroke, and the bars need not be drawn for that. */
export function wholeOfShares(total: number): CSSProperties {
  // Of nothing nothing is a share, and a style that divides by zero would fill the bar.
  return { "--whole": total > 0 ? total : 1e30 } as CSSProperties;
}

/** A thin bar: how much of the whole this is, by element. */
export function ShareBar({ elements, scale }: { elements: ByElement | undefined; scale: number }) {
  if (!elements) return null;
  return (
    <span className="flex h-[9px] w-full bg-sunk" aria-hidden="true">
      {ELEMENTS.map((element) => {
        const cost = (elements[element] ?? 0) * scale;
        return cost > 0 ? (
          <i
            key={element}
            className={element === "scrap" ? "hatched" : ""}
            style={{ width: `min(100%, 100% * ${cost} / var(--whole))`, backgroundColor: elementColour(element) }}
          />
        ) : null;
      })}
    </span>
  );
}
