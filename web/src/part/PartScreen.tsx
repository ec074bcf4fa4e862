import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { KindMark } from "../kit/KindMark";
import { OutLink } from "../kit/OutLink";
import { StandardsChart } from "../kit/StandardsChart";
import type { PartOut } from "../lib/api";
import { PART_KINDS } from "../lib/declared";
import { useSeesCosts, useSeesPrices } from "../lib/session";
import { Offers } from "../pieces/offers/Offers";
import { MakerNumbers } from "../pieces/parts/MakerNumbers";
import { OpenOrders } from "../pieces/parts/OpenOrders";
import { PartFields } from "../pieces/parts/PartFields";
import { PartFiles } from "../pieces/parts/PartFiles";
import { usePart } from "../pieces/parts/PartPanel";
import { Stock } from "../pieces/parts/Stock";
import { TakeAway } from "../pieces/parts/TakeAway";
import { Traced } from "../pieces/parts/Traced";
import { usePartForm } from "../pieces/parts/usePartForm";
import { Alternates } from "./Alternates";
import { History } from "./History";
import { Model } from "./Model";
import { Prices } from "./Prices";
import { Section } from "./Section";
import { Uses } from "./Uses";

/** One part whole: its fields, its sheets, where it is used, stock, standards, files, and who changed what. */
export function PartScreen() {
  const { number = "" } = useParams();
  const part = usePart(number);
  const navigate = useNavigate();
  if (part.error && !part.data)
    return (
      <Empty title={number} action={<Button onClick={() => navigate("/parts")}>To the parts</Button>}>
        <p role="alert">{part.error.message}</p>
      </Empty>
    );
  if (!part.data) return null;
  // What was saved elsewhere meanwhile is read into a form of its own.
  return <Whole key={`${part.data.number} ${part.data.version}`} part={part.data} />;
}

function Whole({ part }: { part: PartOut }) {
  const prices = useSeesPrices();
  const costs = useSeesCosts();
  const navigate = useNavigate();
  const of = usePartForm(part, (saved) => {
    if (saved.number !== part.number) navigate(`/part/${encodeURIComponent(saved.number)}`, { replace: true });
  });
  const made = part.kind === "made" || part.kind === "phantom";
  const stocked = part.kind !== "phantom" && part.kind !== "charge";
  return (
    <div className="grid h-full grid-cols-[400px_1fr] overflow-hidden">
      <form
        aria-label="Fields"
        className="flex flex-col gap-3 overflow-y-auto border-r border-hair bg-paper px-4 pt-3 pb-4"
        onSubmit={(event) => {
          event.preventDefault();
          of.save.mutate();
        }}
      >
        <PartFields of={of} />
        {of.general && (
          <p role="alert" className="text-bad">
            {of.general}
          </p>
        )}
        <div className="sticky -bottom-4 -mx-4 mt-auto -mb-4 flex gap-2 border-t border-hair bg-paper px-4 pt-2 pb-3">
          <Button needs="parts" look="strong" type="submit" disabled={of.save.isPending || !of.changed}>
            Save
          </Button>
          <span className="ml-auto">
            <TakeAway number={part.number} onGone={() => navigate("/parts")} />
          </span>
        </div>
      </form>
      <div className="overflow-y-auto px-5 pt-3 pb-6">
        <div className="flex items-baseline gap-3 pb-3">
          <h1 className="flex min-w-0 items-baseline gap-3 text-[20px] font-semibold">
            <span className="font-mono tracking-tight whitespace-nowrap">{part.number}</span>
            <span className="truncate">{part.description}</span>
          </h1>
          <KindMark kind={part.kind} />
          <span className="ml-auto flex shrink-0 gap-4">
            <OutLink to={part.supplier_link}>{part.supplier || "Where it is bought"}</OutLink>
            {made && (
              <Link className="text-blue hover:underline" to={`/sheets/${encodeURIComponent(part.number)}`}>
                {part.sheets ? "Its sheet" : "Start its sheet"}
              </Link>
            )}
            {made && stocked && part.sheets > 0 && (
              <Link className="text-blue hover:underline" to={`/shop?part=${encodeURIComponent(part.number)}`}>
                Make some
              </Link>
            )}
            <Link className="text-blue hover:underline" to={`/where-used/${encodeURIComponent(part.number)}`}>
              Used on all levels
            </Link>
          </span>
        </div>
        {made && part.sheets > 0 && <Alternates number={part.number} unit={part.unit} />}
        <div className="columns-2 gap-6">
          {costs && PART_KINDS[part.kind].hasPrice && <Prices part={part} />}
          <Uses number={part.number} />
          {stocked && (
            <Section title="Stock and open orders">
              <Stock part={part.number} />
              <Traced part={part.number} />
              <OpenOrders part={part.number} unit={part.unit} />
            </Section>
          )}
          {part.kind === "bought" && (
            <Section title="Makers' numbers">
              <MakerNumbers part={part.number} may={of.may} />
            </Section>
          )}
          {part.kind === "bought" && prices && (
            <Section title="Offers">
              <Offers part={part.number} />
            </Section>
          )}
          {costs && part.kind !== "phantom" && (
            <Section title="Standard cost">
              <StandardsChart number={part.number} width={380} />
            </Section>
          )}
          {part.kind !== "charge" && part.kind !== "phantom" && <Model part={part} may={of.may} />}
          <Section title="Pictures and files">
            <PartFiles part={part.number} may={of.may} />
          </Section>
        </div>
        <History number={part.number} version={part.version} />
      </div>
    </div>
  );
}
