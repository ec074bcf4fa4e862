import { useMay, useSeesCosts, useSeesPrices } from "../lib/session";

/** A screen: its address, its word in the bar, and the words by which the search finds it. */
export interface Place {
  to: string;
  word: string;
  find: string;
}

const place = (to: string, word: string, find = word): Place => ({ to, word, find });

/** Screens that are about what things cost. */
const OF_COSTS = ["/matrix", "/rounds", "/shop/figures", "/shop/stock"];

/** Every screen, in the order of the work. */
const PLACES: [group: string, Place[]][] = [
  ["Today", [place("/today", "Today", "Today: what waits for you")]],
  [
    "Define",
    [
      place("/parts", "Parts"),
      place("/parts/classes", "Classes of parts", "Classes of parts, their fields and numbers"),
      place("/sheets", "Sheets", "Build sheets"),
      place("/library", "Operation library"),
      place("/work-centers", "Work centers"),
    ],
  ],
  [
    "Receive",
    [
      place("/inquiries", "Inquiries", "Inquiries of customers"),
      place("/partners", "Partners", "Partners: customers, suppliers, makers"),
    ],
  ],
  [
    "Check",
    [
      place("/findings", "Findings"),
      place("/matrix", "Matrix", "Matrix of products against parts"),
      place("/exchange", "Exchange", "Exchange a part everywhere"),
      place("/exchange/tables", "Substitution", "Substitution: generic things for real stock, by a table"),
    ],
  ],
  ["Cost", [place("/rounds", "Rounds", "Rounds of standard costs")]],
  [
    "Buy",
    [
      place("/buying", "Plans", "Buy plans: needs, offers, what is bought where"),
      place("/requests", "Requests", "Requests for quotation, and what came back"),
      place("/quotes", "Quotes", "Quotes to customers"),
      place("/orders", "Orders", "Orders at suppliers, and what came of them"),
    ],
  ],
  [
    "Hand over",
    [
      place("/handover", "Handovers", "Handovers: our definition and the records of production"),
      place("/lists", "Lists", "Lists for their readers: workbook, CSV, JSON, PDF, with pictures"),
      place("/programs", "Programs", "Programs: what they read, and what they are told"),
    ],
  ],
  [
    "Make",
    [
      place("/shop", "Work orders", "Work orders: what our shop makes, how far it is, what it came to"),
      place("/shop/at", "At a work center", "At a work center: what is next here, begin, report"),
      place("/shop/day", "End of the day", "End of the day: many operations reported in one table"),
      place("/shop/figures", "Shop figures", "Shop figures: utilisation, scrap, yield, what orders came to"),
      place("/shop/traced", "Lots and units", "Lots and units: what went into one, where it went"),
      place("/shop/stock", "Stock value", "Stock value by day, and its moves for the accountant"),
      place("/work-centers/load", "Load", "Load of the work centers"),
      place("/cutting", "Cutting", "Cutting: bars and boards for pieces, leftovers"),
    ],
  ],
  ["People", [place("/people", "People", "People: who may sign in, their roles, what was done about accounts")]],
];

/** The screens that a person is shown: those of buying and of costs only to who may see them, people to who may change them. */
export function usePlaces(): [group: string, Place[]][] {
  const prices = useSeesPrices();
  const people = useMay("people");
  const costs = useSeesCosts();
  return PLACES.filter(([group]) => (group !== "Buy" || prices) && (group !== "People" || people))
    .map(([group, places]): [string, Place[]] => [group, places.filter(({ to }) => costs || !OF_COSTS.includes(to))])
    .filter(([, places]) => places.length > 0);
}

/** The place of an address: the longest that it begins with. */
export function placeOf(address: string): Place | undefined {
  // The page of a part stands among the parts.
  const path = address.startsWith("/part/") ? "/parts" : address;
  return PLACES.flatMap(([, places]) => places)
    .filter(({ to }) => path === to || path.startsWith(`${to}/`))
    .sort((a, b) => b.to.length - a.to.length)[0];
}
