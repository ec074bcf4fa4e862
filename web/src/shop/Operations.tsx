import { Fragment } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Strokes } from "../kit/Strokes";
import { dayAndTime, minutes, quantity } from "../lib/number";
import { useMay } from "../lib/session";
import { OutsideForm } from "./OutsideForm";
import { ReportForm } from "./ReportForm";
import type { Order, Stage } from "./states";

/** Which operation is reported on, or sent outside. */
export type OpenForm = [sequence: number, form: "report" | "outside"] | null;

const GRID =
  "grid grid-cols-[40px_minmax(150px,1.2fr)_minmax(150px,1fr)_112px_196px_52px_52px_284px] items-center gap-x-3 px-2";

/** The operations of an order in their order: what came to each, what was reported of it; a row opens to report on it. */
export function Operations({
  order,
  open,
  onOpen: setOpen,
}: {
  order: Order;
  open: OpenForm;
  onOpen: (open: OpenForm) => void;
}) {
  const may = useMay("shop reports");
  const takes = order.why_not.report === null;
  return (
    <section aria-label="Operations" className="pt-4">
      <h2 className="pb-1 font-semibold">Operations</h2>
      <div role="table" aria-label="Operations of the order" className="border-t border-ink bg-paper">
        <div role="row" className={`${GRID} h-7 border-b border-hair-2 text-[12px] text-ink-2`}>
          {["", "operation", "where", "begins", "reported", "good", "scrap", ""].map((title, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: headings have their places
            <span key={at} role="columnheader" className={at === 5 || at === 6 ? "text-right" : ""}>
              {title}
            </span>
          ))}
        </div>
        {order.stages.map((stage) => (
          <Fragment key={stage.sequence}>
            <div role="row" className={`${GRID} min-h-9 border-b border-hair py-0.5`}>
              <span role="cell" className="text-right text-ink-3">
                {stage.sequence || ""}
              </span>
              <span role="cell" className="truncate font-semibold" title={stage.instructions}>
                {stage.name || "Make"}
              </span>
              <span role="cell" className="truncate text-ink-2">
                {stage.outside ? (
                  `outside: ${stage.supplier}`
                ) : stage.center ? (
                  <Link className="text-blue underline" to={`/shop/at/${encodeURIComponent(stage.center)}`}>
                    {stage.center_name || stage.center}
                  </Link>
                ) : (
                  ""
                )}
                {!stage.outside && stage.center && (
                  <span className="pl-2 text-[12px] text-ink-3">
                    {minutes(Number(stage.setup_minutes) + Number(stage.run_minutes))}
                  </span>
                )}
              </span>
              <span role="cell" className="text-ink-2">
                {stage.begun ? (
                  <span className="text-blue">since {dayAndTime(stage.begun)}</span>
                ) : stage.starts ? (
                  dayAndTime(stage.starts)
                ) : (
                  ""
                )}
              </span>
              <span role="cell">
                <Strokes
                  done={Math.round(Number(stage.good) + Number(stage.scrapped))}
                  of={Math.round(Number(stage.planned)) || 1}
                  what="units"
                />
              </span>
              <span role="cell" className="text-right">
                {quantity(stage.good)}
              </span>
              <span role="cell" className={`text-right ${Number(stage.scrapped) ? "text-bad" : "text-ink-3"}`}>
                {Number(stage.scrapped) ? quantity(stage.scrapped) : "–"}
              </span>
              <span role="cell" className="flex items-center justify-end gap-2">
                <Waits stage={stage} />
                {takes && may && stage.outside && (
                  <Button
                    className="!min-h-[26px]"
                    aria-expanded={open?.[0] === stage.sequence && open[1] === "outside"}
                    onClick={() => setOpen([stage.sequence, "outside"])}
                  >
                    Send, invoice
                  </Button>
                )}
                {takes && may && (
                  <Button
                    className="!min-h-[26px]"
                    aria-label={`Report operation ${stage.sequence}`}
                    aria-expanded={open?.[0] === stage.sequence && open[1] === "report"}
                    onClick={() => setOpen([stage.sequence, "report"])}
                  >
                    {stage.outside ? "Came back" : "Report"}
                  </Button>
                )}
              </span>
            </div>
            {open?.[0] === stage.sequence &&
              (open[1] === "report" ? (
                <ReportForm order={order} stage={stage} onClose={() => setOpen(null)} />
              ) : (
                <OutsideForm order={order} stage={stage} onClose={() => setOpen(null)} />
              ))}
          </Fragment>
        ))}
      </div>
    </section>
  );
}

function Waits({ stage }: { stage: Stage }) {
  const left = Number(stage.came) - Number(stage.good) - Number(stage.scrapped);
  const toSend = Number(stage.here) - Number(stage.sent);
  if (stage.outside && toSend > 0) return <span className="text-ink-2">{quantity(toSend)} to send</span>;
  return left > 0 ? <span className="text-ink-2">{quantity(left)} here</span> : null;
}
