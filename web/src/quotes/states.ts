import type { Schemas } from "../lib/api";

export type Quote = Schemas["QuoteOut"];
