import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type PartOut } from "../lib/api";
import { Renumber } from "../pieces/parts/Renumber";
import { ChangeParts } from "./ChangeParts";

/** What can be done with several parts at once. */
export function ChosenParts({ chosen, onNone }: { chosen: Map<string, PartOut>; onNone: () => void }) {
  const [verb, setVerb] = useState<"change" | "number" | null>(null);
  const say = useSay();
  const navigate = useNavigate();
  const copyRows = () => {
    const copied: string[] = [
      ["Part number", "Description", "Class", "Kind", "Unit", "Unit cost", "Lifecycle"].join("\t"),
    ];
    for (const part of chosen.values())
      copied.push(
        [part.number, part.description, part.part_class, part.kind, part.unit, part.unit_cost ?? "", part.lifecycle]
          .map((cell) => cell.replace(/[\t\n\r]+/g, " "))
          .join("\t"),
      );
    navigator.clipboard
      .writeText(copied.join("\n"))
      .then(() => say(`Copied ${copied.length - 1} rows with their header.`))
      .catch(() => say("The browser does not let this page copy.", { bad: true }));
  };
  const numbers = useQuery({
    queryKey: ["numbers-by-class", [...chosen.keys()]],
    queryFn: () => answer(client.POST("/api/parts/numbers-by-class", { body: { parts: [...chosen.keys()] } })),
    enabled: verb === "number",
    staleTime: 0,
  });
  if (chosen.size === 0) return null;
  const [top = "", ...beside] = chosen.keys();
  const handedOver = new URLSearchParams({ top, beside: beside.join(",") });
  return (
    <>
      <div role="toolbar" aria-label="Chosen parts" className="flex items-center gap-2 pb-2">
        <b aria-live="polite">
          {chosen.size} {chosen.size === 1 ? "part" : "parts"} chosen
        </b>
        <Button needs="parts" onClick={() => setVerb("change")}>
          Change a field …
        </Button>
        <Button needs="parts" onClick={() => setVerb("number")}>
          Give numbers …
        </Button>
        <Button needs="handover" onClick={() => navigate(`/handover?${handedOver}`)}>
          Hand sheets over …
        </Button>
        <Button onClick={copyRows}>Copy rows</Button>
        <Button look="quiet" onClick={() => onNone()}>
          choose none
        </Button>
      </div>
      {verb === "change" && (
        <ChangeParts
          parts={[...chosen.values()]}
          onClose={(saved) => {
            setVerb(null);
            if (saved) onNone();
          }}
        />
      )}
      {verb === "number" && (
        <Renumber
          note="The next numbers of their classes; the old ones stay in the descriptions."
          rows={numbers.data}
          error={numbers.error}
          onClose={(saved) => {
            setVerb(null);
            if (saved) onNone();
          }}
        />
      )}
    </>
  );
}
