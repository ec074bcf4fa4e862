import { Button } from "../kit/Button";
import { download } from "../kit/download";
import { useSay } from "../kit/Says";
import type { Schemas } from "../lib/api";
import { quantity } from "../lib/number";

/** A part bent from sheet, laid flat: its outline, its figures, and the outline for a machine. */
export function Flat({ part, sheet }: { part: string; sheet: Schemas["SheetMetal"] }) {
  const say = useSay();
  const xs = sheet.outline.flatMap((ring) => ring.filter((_, at) => at % 2 === 0));
  const ys = sheet.outline.flatMap((ring) => ring.filter((_, at) => at % 2 === 1));
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [width, height] = [Math.max(...xs) - left, Math.max(...ys) - top];
  const margin = Math.max(width, height) / 40;
  return (
    <div className="pb-1">
      <figure className="mb-1 flex justify-center border border-hair bg-paper py-2">
        <svg
          role="img"
          aria-label={`${part} laid flat`}
          viewBox={`${left - margin} ${top - margin} ${width + 2 * margin} ${height + 2 * margin}`}
          className="max-h-[150px] w-full"
          fill="var(--blue-tint)"
          stroke="var(--blue)"
          fillRule="evenodd"
        >
          <path
            d={sheet.outline.map((ring) => `M${ring.join(" ")}Z`).join("")}
            strokeWidth={1.3}
            vectorEffect="non-scaling-stroke"
          />
        </svg>
      </figure>
      <p className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <span>
          flat <b>{sheet.flat.map((x) => quantity(x, 2)).join(" × ")} mm</b>
        </span>
        <span>{quantity(sheet.thickness, 2)} mm thick</span>
        <span title={`inner radius and angle; the neutral line lies at ${sheet.k} of the thickness`}>
          {sheet.bends.length === 0
            ? "no bend"
            : `${sheet.bends.length} ${sheet.bends.length === 1 ? "bend" : "bends"}: ${sheet.bends.map((b) => `R ${quantity(b.radius, 2)}, ${quantity(b.angle, 1)}°`).join("; ")}`}
        </span>
        <span>{quantity(sheet.cut_length, 0)} mm of cut</span>
        {sheet.cutouts > 0 && <span>{sheet.cutouts} cut-outs</span>}
        <Button
          look="quiet"
          className="!min-h-6"
          onClick={() =>
            download(`/api/parts/one/flat.dxf?number=${encodeURIComponent(part)}`).catch((error: Error) =>
              say(error.message, { bad: true }),
            )
          }
        >
          its outline as DXF
        </Button>
      </p>
    </div>
  );
}
