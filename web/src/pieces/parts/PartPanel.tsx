import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { Button } from "../../kit/Button";
import { Panel } from "../../kit/Panel";
import { StandardsChart } from "../../kit/StandardsChart";
import { answer, client, type PartOut } from "../../lib/api";
import { MakerNumbers } from "./MakerNumbers";
import { OpenOrders } from "./OpenOrders";
import { PartFields } from "./PartFields";
import { PartFiles } from "./PartFiles";
import { Stock } from "./Stock";
import { TakeAway } from "./TakeAway";
import { usePartForm } from "./usePartForm";

/** One part by its number. */
export function usePart(number: string | null) {
  return useQuery({
    queryKey: ["part", number],
    queryFn: () => answer(client.GET("/api/parts/one", { params: { query: { number: number! } } })),
    enabled: number !== null,
    staleTime: 0,
  });
}

/** Make a part, or change the one of a number. */
export function PartPanel({
  number,
  kind,
  onClose,
}: {
  number: string | null;
  /** Of a new one. */
  kind?: string | null;
  onClose: (saved?: PartOut) => void;
}) {
  const part = usePart(number);
  if (number !== null && !part.data)
    return (
      <Panel title={number} open onClose={onClose} note={part.error?.message ?? "…"}>
        {null}
      </Panel>
    );
  return <PartForm part={part.data ?? null} kind={kind} onClose={onClose} />;
}

function PartForm({
  part,
  kind,
  onClose,
}: {
  part: PartOut | null;
  kind?: string | null;
  onClose: (saved?: PartOut) => void;
}) {
  const of = usePartForm(part, onClose, kind);
  const navigate = useNavigate();
  const made = of.form.values.kind === "made" || of.form.values.kind === "phantom";
  const folded = (title: string, content: React.ReactNode) => (
    <details>
      <summary className="cursor-pointer py-1 font-semibold text-ink-2">{title}</summary>
      {content}
    </details>
  );
  return (
    <Panel title={part ? part.number : "New part"} open onClose={() => onClose()}>
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          of.save.mutate();
        }}
      >
        <PartFields of={of} />
        {part && folded("Pictures and files", <PartFiles part={part.number} may={of.may} />)}
        {part &&
          part.kind !== "phantom" &&
          part.kind !== "charge" &&
          folded(
            "Stock and open orders",
            <>
              <Stock part={part.number} />
              <OpenOrders part={part.number} unit={part.unit} />
            </>,
          )}
        {part &&
          part.kind !== "phantom" &&
          folded("Standard cost", <StandardsChart number={part.number} width={410} />)}
        {part?.kind === "bought" &&
          folded("Manufacturers' numbers (MPN)", <MakerNumbers part={part.number} may={of.may} />)}
        {part && <TakeAway number={part.number} onGone={() => onClose()} />}
        {of.general && (
          <p role="alert" className="text-bad">
            {of.general}
          </p>
        )}
        <div className="mt-auto flex gap-2 pt-4">
          <Button needs="parts" look="strong" type="submit" disabled={of.save.isPending || !of.changed}>
            {part ? "Save" : "Make the part"}
          </Button>
          {part && made && (
            <Button onClick={() => navigate(`/sheets/${encodeURIComponent(part.number)}`)}>
              {part.sheets ? "Open its sheet" : "Start its sheet"}
            </Button>
          )}
          {part && <Button onClick={() => navigate(`/part/${encodeURIComponent(part.number)}`)}>All of it</Button>}
          <Button className="ml-auto" onClick={() => onClose()}>
            {of.may ? "Leave without saving" : "Close"}
          </Button>
        </div>
      </form>
    </Panel>
  );
}
