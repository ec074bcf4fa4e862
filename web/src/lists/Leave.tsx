import { useState } from "react";
import { Button } from "../kit/Button";
import { download } from "../kit/download";
import { useSay } from "../kit/Says";

const AS_LIST = [
  ["list-xlsx", "workbook"],
  ["list-pdf", "PDF, to print"],
  ["list-csv", "CSV"],
  ["list-json", "JSON"],
] as const;
const OF_THEIR_OWN = [
  ["calculates", "costs that calculate"],
  ["costs-csv", "costs as CSV"],
  ["costs-pdf", "costs as PDF"],
  ["bundle", "bundle"],
  ["cyclonedx", "CycloneDX 1.6"],
] as const;

/** The shapes in which what stands here leaves; more than one file goes in an archive that says what is in it. */
export function Leave({
  parts,
  asked,
  ready,
  known,
}: {
  parts: string[];
  asked: URLSearchParams;
  ready: boolean;
  /** The shapes that whoever asks is given. */
  known: string[];
}) {
  const [shapes, setShapes] = useState<string[]>(["list-xlsx"]);
  const [making, setMaking] = useState(false);
  const say = useSay();
  const files = parts.length * shapes.length;
  const leave = () => {
    const query = new URLSearchParams(asked);
    for (const part of parts) query.append("part", part);
    for (const shape of shapes) query.append("shape", shape);
    setMaking(true);
    download(`/api/lists/file?${query}`)
      .catch((error: Error) => say(error.message, { bad: true }))
      .finally(() => setMaking(false));
  };
  const turn = (shape: string) =>
    setShapes(shapes.includes(shape) ? shapes.filter((s) => s !== shape) : [...shapes, shape]);
  const group = (words: string, of: readonly (readonly [string, string])[]) => (
    <fieldset className="flex flex-wrap items-center gap-x-3">
      <legend className="float-left mr-3 font-semibold">{words}</legend>
      {of
        .filter(([shape]) => known.includes(shape))
        .map(([shape, said]) => (
          <label key={shape} className="flex min-h-6 items-center gap-1.5 whitespace-nowrap">
            <input type="checkbox" checked={shapes.includes(shape)} onChange={() => turn(shape)} />
            {said}
          </label>
        ))}
    </fieldset>
  );
  return (
    <section
      aria-label="It leaves as"
      className="noprint flex shrink-0 flex-wrap items-center gap-x-5 gap-y-1 border-t border-ink bg-sunk px-3 py-2"
    >
      {group("This list as", AS_LIST)}
      {group("The product as", OF_THEIR_OWN)}
      <Button look="strong" className="ml-auto" disabled={!ready || files === 0 || making} onClick={leave}>
        {making ? "Making it …" : files > 1 ? `Take ${files} files` : "Take the file"}
      </Button>
    </section>
  );
}
