import { RowGrid } from "../kit/RowGrid";
import { day, money, quantity } from "../lib/number";
import { boughtOf, type Need } from "../model/plan";

const GRID =
  "grid grid-cols-[24px_minmax(84px,0.7fr)_minmax(130px,1.6fr)_96px_92px_minmax(130px,1.3fr)_86px_92px] items-center";

/** What a row is, by a mark in the gutter: bought, held by hand, nothing covers it, nothing to buy. */
function Gutter({ need }: { need: Need }) {
  const byHand = need.bought.some((b) => b.by_hand);
  const words = need.reason ? "not covered" : byHand ? "by hand" : need.bought.length ? "bought" : "in stock";
  return (
    <span role="cell" className="flex justify-center">
      <svg width="12" height="16" viewBox="0 0 12 16" strokeLinecap="round" fill="none" aria-hidden="true">
        {words === "not covered" && <path d="M6 2v12" stroke="var(--bad)" strokeWidth="1.6" strokeDasharray="1.5 3" />}
        {(words === "bought" || words === "by hand") && <path d="M5 2v12" stroke="var(--blue)" strokeWidth="2" />}
        {words === "by hand" && <path d="M8 11h3" stroke="var(--blue)" strokeWidth="2" />}
        {words === "in stock" && <path d="M2 8h8" stroke="var(--ink-3)" strokeWidth="1.4" />}
      </svg>
      <span className="sr-only">{words}</span>
    </span>
  );
}

function From({ need }: { need: Need }) {
  const { suppliers, as } = boughtOf(need);
  if (need.reason)
    return (
      <span className="truncate pr-2" title={need.detail}>
        <b className="font-semibold text-bad">{need.reason}</b> <span className="text-ink-3">{need.detail}</span>
      </span>
    );
  return (
    <span className="truncate pr-2" title={as ? `${as} from ${suppliers}` : suppliers}>
      {as && (
        <>
          <span className="pn">{as}</span> <span className="text-[12px] text-ink-3">from </span>
        </>
      )}
      {need.bought.some((b) => b.by_hand) && <span className="text-[12px] text-ink-3">by hand </span>}
      {suppliers || <span className="text-ink-3">in stock or on order</span>}
    </span>
  );
}

const HEAD = (
  <>
    <span role="columnheader">
      <span className="sr-only">state</span>
    </span>
    <span role="columnheader">part</span>
    <span role="columnheader">what it is</span>
    <span role="columnheader" className="pr-3 text-right">
      to buy
    </span>
    <span role="columnheader">needed by</span>
    <span role="columnheader" className="border-l border-hair-2 pl-2">
      bought from
    </span>
    <span role="columnheader" className="pr-3 text-right">
      quantity
    </span>
    <span role="columnheader" className="pr-3 text-right">
      cost
    </span>
  </>
);

const drawn = (need: Need) => {
  const all = boughtOf(need);
  return (
    <>
      <Gutter need={need} />
      <span role="cell" className="pn truncate pr-2">
        {need.part}
      </span>
      <span role="cell" className="truncate pr-2" title={need.description}>
        {need.description}
      </span>
      <span role="cell" className="pr-3 text-right whitespace-nowrap">
        {Number(need.quantity) > 0 ? quantity(need.quantity, 2) : <span className="text-ink-3">0</span>}
        {need.buying_unit !== "ea" && <span className="text-[12px] text-ink-3"> {need.buying_unit}</span>}
      </span>
      <span role="cell" className="truncate text-[12px] text-ink-2">
        {need.by && day(need.by)}
      </span>
      <span role="cell" className="flex h-full items-center border-l border-hair-2 pl-2">
        <From need={need} />
      </span>
      <span role="cell" className="pr-3 text-right">
        {need.bought.length > 0 && quantity(all.quantity, 2)}
      </span>
      <span role="cell" className="pr-3 text-right font-semibold">
        {need.bought.length > 0 && money(all.cost)}
      </span>
    </>
  );
};

const look = (need: Need) => (need.reason === "" && need.bought.length === 0 ? "text-ink-3" : "");

/** The needs of a plan with what is bought for each; what nothing covers stands first. */
export function NeedGrid({
  needs,
  total,
  cursor,
  onCursor,
}: {
  needs: Need[];
  total: number;
  cursor: number | null;
  onCursor: (id: number) => void;
}) {
  return (
    <RowGrid
      label="Needs of the plan"
      columns={GRID}
      head={HEAD}
      rows={needs}
      total={total}
      cursor={cursor}
      look={look}
      draw={drawn}
      onCursor={onCursor}
    />
  );
}
