/** Our own words, for whoever meets them first: what each means here, in a sentence. */
export const GLOSSARY: [word: string, means: string][] = [
  ["alternate", "Another way to build the same part. One of them counts; the others stand beside it."],
  [
    "basis",
    "What figures hold for: costing lots or a quantity, a day, options, prices. It stands above every screen that shows a cost.",
  ],
  [
    "bound",
    "No way to buy what a plan needs costs less than this: it is proven, so the distance to the total is all that could be saved.",
  ],
  [
    "buy plan",
    "The cheapest way to buy what some builds take, over all parts and suppliers at once: freight, minimums and price breaks counted.",
  ],
  ["build sheet", "The lines a made part takes and the operations that make it, in revisions."],
  ["change sheet", "All that a handover will write on both sides, to be read before it is written."],
  ["costing lot", "How many are made at once when nothing else is said; set-up is spread over them."],
  [
    "entry",
    "One act in the shop: what was reported, taken, sent or received at once. Never changed; one that was wrong is reversed by another.",
  ],
  ["evidence", "Beside a sender's line: what both texts say, field by field, and which of our parts it could be."],
  ["finding", "Something that a check found on a sheet: it stops a release, or is to be looked at and may be waived."],
  [
    "handover",
    "Our definition and the records that production works from, brought into step: compared with what was last agreed, decided, written on both sides or on none.",
  ],
  [
    "inquiry",
    "What a customer asks to be quoted or built: their lists, layouts and files, held against our parts line by line.",
  ],
  [
    "kept by hand",
    "A line that only the records of production have and are to keep; no handover compares it or takes it out.",
  ],
  ["library", "Operations that many routings share; a routing that follows one shows where it has fallen behind."],
  ["line", "One part on a sheet, with its quantity, its losses, its option and its place in the work."],
  [
    "pairing",
    "Tying a sender's line to a part of ours: remembered from before, by the same number, nearly the same, by values, by words or by hand.",
  ],
  ["need", "What is to be bought of a part: what the builds take, less what is in stock and on order in time."],
  [
    "offer",
    "What a supplier asks for a part, with its price breaks, pack, days and until when it holds. Offers are kept for ever.",
  ],
  ["phantom", "A part that is never stocked: what takes it takes its lines."],
  [
    "price ladder",
    "The unit price over the quantity for every offer of a need: where a step down makes more cost less.",
  ],
  ["revision", "One version of a sheet. A draft can be changed; a released one is locked and holds from a day on."],
  ["rings", "Where the money of a product is: a ring for each level, an arc for each share."],
  ["round", "Proposed inputs, tallied together against what stands; accepted as a whole, its costs become standards."],
  ["standard", "The cost of a part that was accepted with a round and holds from a day on."],
  ["working", "What a figure is made of, step by step, down to who stated each input."],
];
