import { useEffect, useRef, useState } from "react";
import type { LookScene, Side } from "./scene";

const STEPS: Record<string, [across: number, up: number, nearer?: number]> = {
  ArrowLeft: [-10, 0],
  ArrowRight: [10, 0],
  ArrowUp: [0, 10],
  ArrowDown: [0, -10],
  "+": [0, 0, 0.85],
  "-": [0, 0, 1 / 0.85],
};

/** The canvas of a look: dragged it turns, the wheel brings it nearer, the arrow keys turn it too. */
export function Solid({
  number,
  share,
  depth,
  chosen,
  alone,
  side,
  onPick,
  onLevels,
}: {
  number: string;
  share: number;
  depth: number;
  chosen: string | null;
  alone: boolean;
  /** A new object each time it is asked for. */
  side: { name: Side };
  onPick: (name: string | null) => void;
  onLevels: (levels: number) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [scene, setScene] = useState<LookScene | null>(null);
  const [failed, setFailed] = useState("");
  const told = useRef({ onPick, onLevels });
  told.current = { onPick, onLevels };
  useEffect(() => {
    let gone = false;
    let made: LookScene | null = null;
    const begin = async () => {
      // What draws solids is large, and is fetched where one is looked at.
      const [{ LookScene }, answer] = await Promise.all([
        import("./scene"),
        fetch(`/api/parts/one/look.glb?number=${encodeURIComponent(number)}`),
      ]);
      if (!answer.ok) throw new Error("The model could not be fetched; look again in a moment.");
      const content = await answer.arrayBuffer();
      if (gone || !canvas.current) return;
      made = await LookScene.of(canvas.current, content, (name) => told.current.onPick(name)).catch(() => {
        throw new Error("This browser draws no solids (WebGL); the part has its line drawing.");
      });
      if (gone) made.dispose();
      else {
        setScene(made);
        told.current.onLevels(made.depth);
      }
    };
    setFailed("");
    begin().catch((error: Error) => !gone && setFailed(error.message));
    return () => {
      gone = true;
      made?.dispose();
      setScene(null);
    };
  }, [number]);
  useEffect(() => {
    const box = canvas.current?.parentElement;
    if (!scene || !box) return;
    const watch = new ResizeObserver(() => scene.resize(box.clientWidth, box.clientHeight));
    watch.observe(box);
    // Light and dark are said on the page as a whole.
    const theme = new MutationObserver(() => scene.recolour());
    theme.observe(document.documentElement, { attributes: true });
    return () => {
      watch.disconnect();
      theme.disconnect();
    };
  }, [scene]);
  useEffect(() => scene?.apart(share, depth), [scene, share, depth]);
  useEffect(() => scene?.choose(chosen, alone), [scene, chosen, alone]);
  useEffect(() => scene?.fit(side.name), [scene, side]);
  return (
    <div
      role="application"
      tabIndex={0}
      aria-label={`${number} as a solid: arrow keys turn it, plus and minus bring it nearer`}
      data-drawn={scene ? "" : undefined}
      className="relative min-w-0 flex-1 overflow-hidden bg-paper focus-visible:outline-offset-[-2px]"
      onKeyDown={(event) => {
        const step = STEPS[event.key];
        if (!step || !scene) return;
        event.preventDefault();
        scene.turn(...step);
      }}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full touch-none" />
      {!scene && !failed && <p className="absolute top-2 left-3 text-ink-3">reading the model …</p>}
      {failed && (
        <p role="alert" className="absolute top-2 left-3 text-bad">
          {failed}
        </p>
      )}
      {scene && (
        <p className="pointer-events-none absolute bottom-0 left-0 bg-paper px-3 py-0.5 text-[12px] text-ink-3">
          Drag to turn, wheel to come nearer, click a part for its row.
        </p>
      )}
    </div>
  );
}
