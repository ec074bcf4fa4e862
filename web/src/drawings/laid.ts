import type { Drawing, Laid } from "./useDrawing";

type View = Laid["views"][number];
type Balloon = Laid["balloons"][number];

export const scaleWords = (scale: number) => (scale >= 1 ? `${scale} : 1` : `1 : ${Math.round(10 / scale) / 10}`);

/** What a view is called on screen. */
export function viewName(view: View, drawing: Drawing): string {
  if (view.picture != null) return drawing.views.find((v) => v.key === view.key)?.name ?? "a picture";
  if (view.of) return `detail ${view.letter}`;
  return view.depth == null ? view.direction : `section ${view.letter}, ${view.direction}`;
}

/** All lines whose numbers a balloon shows, from the top down. */
export const linesOf = (balloon: Balloon) => [balloon.line, ...(balloon.more ?? [])];

/** Balloons without those of some lines; what stood beneath one that goes moves up. */
export function withoutLines(balloons: Balloon[], gone: (line: string) => boolean): Balloon[] {
  return balloons.flatMap((balloon) => {
    const [first, ...more] = linesOf(balloon).filter((line) => !gone(line));
    return first ? [{ ...balloon, line: first, more }] : [];
  });
}

/** A line's balloon beneath the one that shows another line. */
export function beneath(balloons: Balloon[], shown: string, line: string): Balloon[] {
  return balloons.map((b) => (linesOf(b).includes(shown) ? { ...b, more: [...(b.more ?? []), line] } : b));
}

/** A drawing without a view, its details and their balloons. */
export function withoutView(laid: Laid, key: string): Laid {
  const views = laid.views.filter((v) => v.key !== key && v.of !== key);
  const left = new Set(views.map((v) => v.key));
  return { ...laid, views, balloons: laid.balloons.filter((b) => left.has(b.view)) };
}
