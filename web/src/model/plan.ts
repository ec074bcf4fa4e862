import type { Schemas } from "../lib/api";
import { day, money, quantity } from "../lib/number";

export type Need = Schemas["NeedRow"];
export type LookedAt = Schemas["LookedAt"];

/** What is left to look at, by the word of its filter. */
export const NEED_FILTERS = {
  all: () => true,
  "to buy": (n: Need) => Number(n.quantity) > 0,
  "not covered": (n: Need) => n.reason !== "",
  "by hand": (n: Need) => n.bought.some((b) => b.by_hand),
  "more than needed": (n: Need) => n.bought.some((b) => Number(b.surplus) > 0),
  "in stock": (n: Need) => n.reason === "" && Number(n.quantity) === 0,
} satisfies Record<string, (need: Need) => boolean>;

export type NeedFilter = keyof typeof NEED_FILTERS;

/** How many needs each filter keeps. */
export function countedNeeds(needs: Need[]): Record<NeedFilter, number> {
  const names = Object.keys(NEED_FILTERS) as NeedFilter[];
  return Object.fromEntries(names.map((n) => [n, needs.filter(NEED_FILTERS[n]).length])) as Record<NeedFilter, number>;
}

/** The needs that a filter and words keep. */
export function shownNeeds(needs: Need[], filter: NeedFilter, words: string): Need[] {
  const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
  return needs.filter((n) => {
    const said = `${n.part} ${n.description} ${n.bought.map((b) => b.supplier).join(" ")}`.toLowerCase();
    return NEED_FILTERS[filter](n) && asked.every((word) => said.includes(word));
  });
}

/** Suppliers that a need is bought from, its quantity, its cost and what is over, all lines together. */
export function boughtOf(need: Need) {
  const sum = (of: (b: Need["bought"][number]) => string) => need.bought.reduce((all, b) => all + Number(of(b)), 0);
  return {
    suppliers: [...new Set(need.bought.map((b) => b.supplier))].join(" and "),
    /** The numbers of parts that stand in for the needed one. */
    as: [...new Set(need.bought.flatMap((b) => b.part || []))].join(" and "),
    quantity: sum((b) => b.quantity),
    cost: sum((b) => b.cost),
    surplus: sum((b) => b.surplus),
  };
}

/** The columns in which a plan leaves as a workbook. */
export const PLAN_AS_FILE: { title: string; number?: boolean; value: (need: Need) => string | number | null }[] = [
  { title: "Part", value: (n) => n.part },
  { title: "Description", value: (n) => n.description },
  { title: "Asked for", number: true, value: (n) => Number(n.asked) },
  { title: "From stock", number: true, value: (n) => Number(n.stock) },
  { title: "On order", number: true, value: (n) => Number(n.ordered) },
  { title: "Unit", value: (n) => n.unit },
  { title: "To buy", number: true, value: (n) => Number(n.quantity) },
  { title: "Buying unit", value: (n) => n.buying_unit },
  { title: "Needed by", value: (n) => n.by },
  { title: "Supplier", value: (n) => boughtOf(n).suppliers || null },
  { title: "Bought as", value: (n) => boughtOf(n).as || null },
  { title: "Bought", number: true, value: (n) => (n.bought.length ? boughtOf(n).quantity : null) },
  { title: "Cost", number: true, value: (n) => (n.bought.length ? boughtOf(n).cost : null) },
  { title: "More than needed", number: true, value: (n) => (n.bought.length ? boughtOf(n).surplus : null) },
  { title: "Why nothing covers it", value: (n) => n.reason || null },
];

/** A stretch of quantities at one price, in the currency of the plan. */
export interface Stair {
  from: number;
  to: number;
  price: number;
}

/** An offer as stairs: unit price over the quantities that can be had; open to the right up to `most`. */
export function stairsOf(offer: LookedAt, most: number): Stair[] {
  const rate = Number(offer.rate ?? 1);
  const least = Number(offer.minimum);
  const end = offer.available === null ? most : Math.min(most, Number(offer.available));
  return offer.breaks
    .map(([start, price], at) => ({
      from: Math.max(Number(start), least),
      to: Math.min(end, Number(offer.breaks[at + 1]?.[0] ?? most)),
      price: Number(price) * rate,
    }))
    .filter((stair) => stair.to > stair.from || (stair.to === stair.from && stair.to === end));
}

/** What a quantity costs at an offer, in the currency of the plan; null where it has no price. */
export function costAt(offer: LookedAt, bought: number): number | null {
  const reached = offer.breaks.filter(([start]) => Number(start) <= bought).at(-1);
  return reached && offer.rate !== null ? Number(reached[1]) * Number(offer.rate) * bought : null;
}

/** From where to where a picture of the offers reaches: quantities on a scale of ratios, prices from a little under the lowest. */
export function reachOf(
  offers: LookedAt[],
  marks: number[],
): { least: number; most: number; price: number; low: number } {
  const starts = offers.flatMap((o) => o.breaks.map(([start]) => Math.max(Number(start), Number(o.minimum))));
  const all = [...starts, ...marks].filter((n) => n > 0);
  const most = Math.max(1, ...all) * 1.6;
  const least = Math.min(
    most / 10,
    Math.max(Math.min(...all, most / 10), Math.min(...marks.filter((n) => n > 0), most) / 30),
  );
  const seen = offers.flatMap((o) => stairsOf(o, most).filter((s) => s.to >= least));
  const prices = seen.map((s) => s.price);
  const [lowest, highest] = [Math.min(...prices), Math.max(1e-9, ...prices)];
  const room = Math.max(highest - lowest, highest * 0.1);
  return { least, most, price: highest + room * 0.2, low: Math.max(0, lowest - room * 0.35) };
}

/** The place of a quantity between 0 and 1, equal ratios equally far apart. */
export const ratioPlace = (n: number, { least, most }: { least: number; most: number }) =>
  Math.log(Math.max(n, least) / least) / Math.log(most / least);

/** Why one quantity is bought and not just the need, in words; empty where it is just the need. */
export function whySoMany(offer: LookedAt, needed: number, bought: number): string {
  if (!(bought > needed) || needed <= 0) return "";
  const paid = costAt(offer, bought);
  const just = needed >= Number(offer.minimum) ? costAt(offer, needed) : null;
  const multiple = Number(offer.multiple ?? 0);
  if (just !== null && paid !== null && paid < just)
    return `${quantity(bought)} cost ${money(paid)}, just ${quantity(needed)} would cost ${money(just)}`;
  if (needed < Number(offer.minimum) && bought <= Number(offer.minimum))
    return `they sell at least ${quantity(offer.minimum)}`;
  if (multiple > 0 && bought - needed < multiple) return `they sell it in ${quantity(multiple)}s`;
  return "it lifts the order over its minimum, or a price is reached";
}

/** When goods arrive and what that means for the day of the need. */
export function arrivalWords(offer: LookedAt, by: string | null): string {
  if (!offer.arrives) return "";
  const spare = by ? Math.round((Date.parse(by) - Date.parse(offer.arrives)) / 86_400_000) : null;
  if (spare === null) return `here ${day(offer.arrives)}`;
  return spare < 0 ? `${-spare} d late` : spare === 0 ? "on the day" : `${spare} d early`;
}
