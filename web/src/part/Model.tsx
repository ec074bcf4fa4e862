import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { FileButton } from "../kit/FileButton";
import { JobProgress, useJobEnd, whileItRuns } from "../kit/JobProgress";
import { sendFile } from "../kit/sendFile";
import { answer, client, type PartOut, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { LineDrawing } from "../pieces/parts/LineDrawing";
import { Flat } from "./Flat";
import { Section } from "./Section";

type Of = Schemas["ModelOut"];

/** The shape of a part as its model has it, and whether the model counts what the sheet counts. */
export function Model({ part, may }: { part: PartOut; may: boolean }) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  const [hidden, setHidden] = useState(false);
  const key = ["part", part.number, "model"] as const;
  const found = useQuery({
    queryKey: key,
    queryFn: () => answer(client.GET("/api/parts/one/model", { params: { query: { number: part.number } } })),
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
  });
  const bring = useMutation<Of, Refusal, File[]>({
    mutationFn: (files) => sendFile(`/api/parts/one/model?number=${encodeURIComponent(part.number)}`, ...files),
    onSuccess: (now) => {
      queries.setQueryData(key, now);
      if (!now.job) untrue("model");
    },
  });
  const model = found.data;
  useJobEnd(model?.job, () => untrue("model"));
  if (!model) return null;
  const { shape } = model;
  const said = bring.error?.message ?? (model.job ? "" : model.failed);
  return (
    <Section
      title="Model"
      beside={
        model.file &&
        `${model.file}${model.pieces ? ` and ${model.pieces} more` : ""}, brought in by ${model.by} on ${dayAndTime(model.at)}`
      }
    >
      {shape?.drawing && (
        <figure className="mb-1 flex justify-center border border-hair bg-paper py-2">
          <LineDrawing
            drawing={shape.drawing}
            hidden={hidden}
            words={`${part.number} as its model has it`}
            className="max-h-[230px] max-w-full"
          />
        </figure>
      )}
      {shape && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-1">
          {shape.box_mm.length > 0 && (
            <span title="its smallest box, in millimetres">
              {shape.box_mm.map((x) => quantity(x, 1)).join(" × ")} mm
            </span>
          )}
          {shape.volume_mm3 && <span>{quantity(Number(shape.volume_mm3) / 1000, 2)} cm³</span>}
          {shape.surface_mm2 && <span title="surface">{quantity(Number(shape.surface_mm2) / 100, 1)} cm²</span>}
          {shape.colour && (
            <span className="flex items-center gap-1.5">
              <span className="inline-block h-3.5 w-3.5 border border-hair-2" style={{ background: shape.colour }} />
              colour
            </span>
          )}
          {shape.drawing && shape.drawing.hidden.length > 0 && (
            <label className="ml-auto flex min-h-6 items-center gap-1.5">
              <input type="checkbox" checked={hidden} onChange={() => setHidden(!hidden)} />
              hidden edges
            </label>
          )}
          {shape.of !== part.number && (
            <span className="text-ink-2">
              from the model of{" "}
              <Link
                className="pn inline-block min-h-6 leading-6 text-blue hover:underline"
                to={`/part/${encodeURIComponent(shape.of)}`}
              >
                {shape.of}
              </Link>
            </span>
          )}
        </div>
      )}
      {shape?.sheet && !shape.sheet.why_not && <Flat part={part.number} sheet={shape.sheet} />}
      {shape?.sheet?.why_not && <p className="pb-1 text-ink-3">Not bent from sheet: {shape.sheet.why_not}.</p>}
      {model.rows.length > 0 && <Counted rows={model.rows} />}
      {part.kind === "made" && (
        <Link
          className="mr-3 inline-block min-h-6 leading-6 text-blue hover:underline"
          to={`/drawings/${encodeURIComponent(part.number)}`}
        >
          Its drawing
        </Link>
      )}
      {model.look && (
        <Link
          className="mr-3 inline-block min-h-6 leading-6 text-blue hover:underline"
          to={`/look/${encodeURIComponent(part.number)}`}
        >
          {model.look !== part.number
            ? "Where it stands"
            : model.rows.length > 0
              ? "From any side, and apart"
              : "From any side"}
        </Link>
      )}
      {model.as_stated > 0 && (
        <p className="text-ink-2" title="Volume, surface and middle that whoever wrote the file put beside its shapes">
          The file states figures of {model.as_stated === 1 ? "one of its shapes" : `${model.as_stated} of its shapes`},
          and they were compared with what was read.
        </p>
      )}
      {model.problems.map((words) => (
        <p key={words} className="text-brass">
          {words}
        </p>
      ))}
      {model.job && <JobProgress job={model.job} stale={key} className="my-1" />}
      {said && (
        <p role="alert" className="py-1 text-bad">
          {said}
        </p>
      )}
      {!shape && !model.job && model.rows.length === 0 && (
        <p className="pb-1 text-ink-2">
          None yet. A STEP file of it gives size, mass and a picture, and counts what an assembly holds.
        </p>
      )}
      <FileButton
        needs="parts"
        disabled={!may || !!model.job || bring.isPending}
        label="A STEP file of it"
        accept=".step,.stp"
        className="mt-1 !min-h-[26px]"
        title="Several at once, where an assembly refers to files of its parts"
        onFiles={(files) => bring.mutate(files)}
      >
        {bring.isPending ? "Sending …" : "Bring in a STEP file …"}
      </FileButton>
    </Section>
  );
}

/** Each name of the file beside our count. */
function Counted({ rows }: { rows: Schemas["ModelRow"][] }) {
  const off = rows.filter((r) => r.on_sheet !== null && r.on_sheet !== r.count).length;
  return (
    <>
      <table className="my-1 w-full">
        <thead>
          <tr className="text-left text-[12px] text-ink-2">
            <th className="py-0.5 font-normal">In the model</th>
            <th className="font-normal">Size, mm</th>
            <th className="text-right font-normal">It holds</th>
            <th className="text-right font-normal">Sheets take</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => {
            const differs = r.on_sheet !== null && r.on_sheet !== r.count;
            return (
              <tr key={r.name} className="border-t border-hair">
                <td>
                  {r.number ? (
                    <Link
                      className="pn inline-block min-h-6 leading-6 hover:text-blue hover:underline"
                      to={`/part/${encodeURIComponent(r.number)}`}
                    >
                      {r.number}
                    </Link>
                  ) : (
                    <span className="text-ink-2" title="no part of ours has this number">
                      {r.name}
                    </span>
                  )}
                </td>
                <td className="text-ink-2">{r.size}</td>
                <td className="text-right">{r.count}</td>
                <td className={`text-right ${differs ? "font-semibold text-bad" : ""}`}>
                  {r.on_sheet === null ? "–" : quantity(r.on_sheet, 3)}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {off > 0 && (
        <p className="text-bad">
          {off === 1 ? "1 part stands" : `${off} parts stand`} in the model otherwise than on the sheets.
        </p>
      )}
    </>
  );
}
