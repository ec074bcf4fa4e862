import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { JobProgress, whileItRuns } from "../kit/JobProgress";
import { answer, client } from "../lib/api";
import { Rows } from "./Rows";
import { Solid } from "./Solid";
import type { Side } from "./scene";

const SIDES: [Side, string][] = [
  ["corner", "from a corner"],
  ["front", "front"],
  ["right", "right"],
  ["above", "above"],
];

/** A model from any side: turned, taken apart by levels; what is clicked is its row, and a row is what it stands for. */
export function LookScreen() {
  const number = useParams().number ?? "";
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const [share, setShare] = useState(0);
  const [depth, setDepth] = useState(0);
  const [levels, setLevels] = useState(0);
  const [alone, setAlone] = useState(false);
  const [side, setSide] = useState<{ name: Side }>({ name: "corner" });
  const found = useQuery({
    queryKey: ["part", number, "model"],
    queryFn: () => answer(client.GET("/api/parts/one/model", { params: { query: { number } } })),
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
  });
  const chosen = params.get("name");
  const choose = (name: string | null) =>
    setParams(name === null ? {} : { name }, { replace: true, preventScrollReset: true });
  if (found.isError)
    return (
      <p role="alert" className="p-4 text-bad">
        {found.error.message}
      </p>
    );
  const model = found.data;
  if (!model) return null;
  // What has no model of its own is looked at where it stands.
  const within = model.look !== "" && model.look !== number;
  const shown = within ? model.look : number;
  return (
    <div className="flex h-full flex-col gap-2 px-4 pt-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1 className="text-[20px] font-semibold whitespace-nowrap">
          <Link
            to={`/part/${encodeURIComponent(shown)}`}
            className="font-mono underline decoration-hair-2 underline-offset-4"
          >
            {shown}
          </Link>{" "}
          <span className="font-normal">from any side</span>
        </h1>
        {model.look && (
          <>
            <label className="ml-4 flex items-center gap-2">
              apart
              <input
                type="range"
                aria-label="Apart"
                min={0}
                max={100}
                value={share}
                disabled={levels === 0}
                className="w-[140px] accent-blue"
                onChange={(event) => setShare(Number(event.target.value))}
              />
            </label>
            {levels > 1 && (
              <select
                className="field !min-h-[28px] !w-auto"
                aria-label="Down to which level"
                value={depth || levels}
                onChange={(event) => setDepth(Number(event.target.value))}
              >
                {levelsFrom(levels).map((level) => (
                  <option key={level} value={level}>
                    {level === levels ? "all levels" : level === 1 ? "first level" : `${level} levels`}
                  </option>
                ))}
              </select>
            )}
            <fieldset className="flex gap-1" aria-label="Seen from">
              {SIDES.map(([name, word]) => (
                <Button key={name} className="!min-h-[28px] !px-2" onClick={() => setSide({ name })}>
                  {word}
                </Button>
              ))}
            </fieldset>
            <label className="flex min-h-6 items-center gap-1.5">
              <input
                type="checkbox"
                checked={alone}
                disabled={chosen === null}
                onChange={() => setAlone((is) => !is)}
              />
              what is chosen alone
            </label>
            <a
              className="ml-auto min-h-6 leading-6 text-blue hover:underline"
              href={`/api/parts/one/look.glb?number=${encodeURIComponent(shown)}`}
              download
            >
              glTF
            </a>
          </>
        )}
      </div>
      {model.job && <JobProgress job={model.job} stale={["part", number, "model"]} />}
      {model.look ? (
        <div className="flex min-h-0 flex-1 border-t border-ink">
          <Solid
            number={shown}
            share={share / 100}
            depth={depth || levels}
            chosen={chosen}
            alone={alone}
            side={side}
            onPick={choose}
            onLevels={setLevels}
          />
          <Rows number={shown} chosen={chosen} first={within ? number : ""} onChoose={choose} />
        </div>
      ) : (
        !model.job && (
          <Empty
            title="No model of it can be looked at"
            action={
              <Button look="strong" onClick={() => navigate(`/part/${encodeURIComponent(number)}`)}>
                To the part
              </Button>
            }
          >
            {model.failed || "Bring in a STEP file of it at the part; then it can be turned and taken apart here."}
          </Empty>
        )
      )}
    </div>
  );
}

function levelsFrom(levels: number): number[] {
  return Array.from({ length: levels }, (_, at) => levels - at);
}
