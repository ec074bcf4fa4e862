import { Link, useNavigate } from "react-router";
import { Menu, MenuItem, MenuLine } from "../kit/Menu";
import type { SheetHead } from "../lib/api";
import { type Basis, carried } from "../lib/basis";
import { day, money, quantity } from "../lib/number";
import { useSeesCosts } from "../lib/session";
import type { SheetView } from "../model/wire";
import { ItsInquiry } from "../pieces/CameFrom";
import type { RefusedField } from "../pieces/fields/One";
import { SeverityMark } from "../pieces/findings/SeverityMark";
import type { FindingOut } from "../pieces/findings/useFindings";
import { COLUMN_SETS, type ColumnSet } from "./grid/columns";
import { verbsOf } from "./panels/RevisionPanel";
import { READINGS, type Reading, type SheetVerb } from "./readings/reading";

/** The part, its totals, which revision this is, and what can be done with the whole sheet. */
export function SheetHeader({
  view,
  basis,
  revisions,
  editable,
  state,
  reading,
  columnSet,
  onShow,
  onVerb,
  findings,
  onFindings,
  onReading,
  onColumns,
  onLeave,
  refusedBatch,
  onBatch,
  onTotal,
}: {
  view: SheetView;
  basis: Basis;
  revisions: SheetHead[];
  editable: boolean;
  /** Whether what stands on screen is saved, in words. */
  state: string;
  reading: Reading;
  columnSet: ColumnSet;
  onShow: (id: number) => void;
  onVerb: (verb: SheetVerb) => void;
  findings: FindingOut[];
  onFindings: () => void;
  onReading: (reading: Reading) => void;
  onColumns: (set: ColumnSet) => void;
  /** The rows as they stand on screen leave as a file; none where the reading has a way out of its own. */
  onLeave: ((shape: "xlsx" | "csv") => void) | null;
  refusedBatch?: RefusedField;
  onBatch: (batch: string) => void;
  onTotal: () => void;
}) {
  const top = view.parts[view.top]!;
  const below = top.cost !== null && top.cost !== undefined ? top.cost - (top.this_level ?? 0) : null;
  const { sheet } = view;
  const costs = useSeesCosts();
  const navigate = useNavigate();
  const verbs = verbsOf(sheet);
  return (
    <div className="pt-3 pr-3.5">
      <div className="flex items-baseline gap-3">
        <h1 className="flex min-w-0 items-baseline gap-3 text-[20px] font-semibold">
          <Link
            className="font-mono tracking-tight whitespace-nowrap hover:text-blue hover:underline"
            to={`/part/${encodeURIComponent(top.number)}`}
            title="All of this part"
          >
            {top.number}
          </Link>
          <span className="truncate">{top.description}</span>
          {top.given && (
            <span className="truncate text-[13px] font-normal text-brass" title={top.given}>
              {top.given}
            </span>
          )}
        </h1>
        <span className="ml-auto flex shrink-0 items-baseline gap-2 text-ink-2">
          <ItsInquiry sheet={sheet.id} />
          <span aria-live="polite" className="text-ink-3">
            {state}
          </span>
          {view.standard && costs && (
            <button
              type="button"
              onClick={() => onReading("cost")}
              className="whitespace-nowrap hover:text-blue"
              title={`accepted with ${view.standard.name}, from ${day(view.standard.first_day)} on`}
            >
              standard <b className="text-ink">{money(view.standard.unit)}</b>
            </button>
          )}
          <FindingsButton findings={findings} onOpen={onFindings} />
          <select
            aria-label="Revision"
            className="max-w-[260px] border-b border-hair-2 bg-transparent"
            value={sheet.id}
            onChange={(e) => onShow(Number(e.target.value))}
          >
            {revisions.map((r) => (
              <option key={r.id} value={r.id}>
                alternate {r.alternate}
                {r.reference ? ` (${r.reference})` : ""}, revision {r.revision}, {r.status}
                {r.status === "released" && r.effective_from ? ` ${day(r.effective_from)}` : ""}
              </option>
            ))}
          </select>
        </span>
      </div>
      <div className={`flex items-baseline py-2 whitespace-nowrap text-ink-2 ${editable ? "gap-x-2.5" : "gap-x-6"}`}>
        {costs && (
          <>
            <button type="button" onClick={onTotal} className="hover:text-blue" title="Open its working">
              Unit cost <b className="ml-1 text-[15px] text-ink">{money(top.cost)}</b>
            </button>
            <span title="what this sheet adds: operations, scrap of its lines, by-products">
              This level <b className="ml-1 text-[15px] text-ink">{money(top.this_level)}</b>
            </span>
            <span title="what it takes from the sheets and prices below it">
              Its parts <b className="ml-1 text-[15px] text-ink">{money(below)}</b>
            </span>
          </>
        )}
        <button
          type="button"
          onClick={() => onReading("time")}
          className="hover:text-blue"
          title="from the first order until a lot is there, as the hours of a week go; opens on the calendar"
        >
          Lead time <b className="ml-1 text-[15px] text-ink">≈ {quantity(top.lead_days, 1)} days</b>
        </button>
        {(sheet.batch !== "1" || editable) && (
          <span className="whitespace-nowrap">
            batch of{" "}
            {editable ? (
              <input
                key={`${sheet.batch}-${refusedBatch?.typed ?? ""}`}
                aria-invalid={!!refusedBatch}
                title={refusedBatch?.message}
                aria-label={`For a batch of, in ${top.unit}`}
                className="w-10 border-b border-hair-2 bg-transparent text-right font-semibold text-ink aria-invalid:border-bad aria-invalid:text-bad"
                defaultValue={refusedBatch ? String(refusedBatch.typed) : sheet.batch}
                onBlur={(e) => e.target.value !== sheet.batch && onBatch(e.target.value)}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              />
            ) : (
              <b className="text-ink">{sheet.batch}</b>
            )}{" "}
            {top.unit}
          </span>
        )}
        <span className="ml-auto flex shrink-0 gap-1.5">
          <select
            aria-label="Read as"
            title="Alt V"
            className="field !min-h-[26px] !w-[106px] !px-1 !py-0"
            value={reading}
            onChange={(event) => onReading(event.target.value as Reading)}
          >
            {Object.entries(READINGS)
              .filter(([value]) => costs || value !== "cost")
              .map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
          </select>
          {(reading === "operations" || reading === "lines") && (
            <select
              aria-label="Columns for"
              title="Alt C"
              className="field !min-h-[26px] !w-[98px] !px-1 !py-0"
              value={columnSet}
              onChange={(event) => onColumns(event.target.value as ColumnSet)}
            >
              {COLUMN_SETS.filter((set) => costs || set !== "cost").map((set) => (
                <option key={set} value={set}>
                  {set}
                </option>
              ))}
            </select>
          )}
          <Menu label="Sheet …" className="!min-h-[26px] !px-2">
            {verbs.map(([verb, words]) => (
              <MenuItem key={verb} needs="sheets" onSelect={() => onVerb(verb)}>
                {words}
              </MenuItem>
            ))}
            {revisions.length > 1 && costs && (
              <MenuItem onSelect={() => navigate(comparisonOf(sheet, revisions, basis))}>Compare revisions</MenuItem>
            )}
            <MenuItem onSelect={() => navigate(carried(`/where-used/${encodeURIComponent(sheet.part)}`, basis))}>
              Where it is used
            </MenuItem>
            {costs && (
              <MenuItem onSelect={() => navigate(carried(`/matrix?builds=${encodeURIComponent(sheet.part)}`, basis))}>
                Beside other products
              </MenuItem>
            )}
            <MenuItem onSelect={() => navigate(`/drawings/${encodeURIComponent(sheet.part)}`)}>Its drawing</MenuItem>
            <MenuItem onSelect={() => onVerb("options")}>Options …</MenuItem>
            {editable && top.kind === "made" && (
              <MenuItem onSelect={() => onVerb("bring")}>Add operations from elsewhere …</MenuItem>
            )}
            {editable && <MenuItem onSelect={() => onVerb("library")}>Add things on no drawing …</MenuItem>}
            {editable && <MenuItem onSelect={() => onVerb("renumber")}>Renumber the items …</MenuItem>}
            <MenuItem needs="parts" onSelect={() => onVerb("numbers")}>
              Renumber the parts by position …
            </MenuItem>
            <MenuItem onSelect={() => onVerb("history")}>History</MenuItem>
            <MenuLine />
            {onLeave && <MenuItem onSelect={() => onLeave("xlsx")}>These rows as a workbook, as they stand</MenuItem>}
            {onLeave && <MenuItem onSelect={() => onLeave("csv")}>These rows as CSV, as they stand</MenuItem>}
            <MenuItem
              onSelect={() =>
                navigate(
                  `/lists?${new URLSearchParams({ part: sheet.part, sheet: String(sheet.id) })}&${addressOf(basis)}`,
                )
              }
            >
              A list or a file of it …
            </MenuItem>
            <MenuItem onSelect={() => window.print()}>Print</MenuItem>
          </Menu>
        </span>
      </div>
    </div>
  );
}

/** How many findings stand on the sheet and below it. */
function FindingsButton({ findings, onOpen }: { findings: FindingOut[]; onOpen: () => void }) {
  const open = findings.filter((f) => !f.waived);
  const stops = open.filter((f) => f.severity === "stops").length;
  if (open.length === 0) return null;
  return (
    <button type="button" onClick={onOpen} title="Alt F" className="flex items-center gap-2 hover:underline">
      {stops > 0 && (
        <>
          <SeverityMark severity="stops" word={false} />
          <span className="text-bad">{stops === 1 ? "1 stops" : `${stops} stop`}</span>
        </>
      )}
      {open.length > stops && (
        <>
          <SeverityMark severity="look" word={false} />
          <span className="text-brass">{open.length - stops} to look at</span>
        </>
      )}
    </button>
  );
}

/** The address that compares a sheet with the one before it. */
function comparisonOf(sheet: SheetHead, revisions: SheetHead[], basis: Basis): string {
  const others = revisions.filter((r) => r.id !== sheet.id);
  const other = others.find((r) => r.alternate === sheet.alternate && r.id < sheet.id) ?? others[0]!;
  // From the older to the newer, whichever stands on screen.
  const [left, right] = [other.id, sheet.id].sort((a, b) => a - b);
  const query = addressOf(basis);
  query.set("left", String(left));
  query.set("right", String(right));
  return `/sheets/${encodeURIComponent(sheet.part)}/compare?${query}`;
}

/** A basis as it stands in the address of a screen. */
function addressOf(basis: Basis): URLSearchParams {
  const params = new URLSearchParams({ drafts: basis.drafts ? "1" : "0" });
  for (const name of ["quantity", "day", "options", "prices", "what_if"] as const)
    if (basis[name]) params.set(name, basis[name]);
  return params;
}
