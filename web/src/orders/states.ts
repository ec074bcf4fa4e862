import type { Schemas } from "../lib/api";

export type Order = Schemas["OrderOut"];
export type OrderRow = Schemas["OrderRow"];
export type OrderLine = Schemas["OrderLineOut"];

/** How an order stands, in the order in which it goes on. */
export const STATES: Record<string, string> = {
  draft: "draft, not placed",
  placed: "placed",
  done: "received",
  cancelled: "cancelled",
};

/** What an order comes to, in its currency. */
export const inAll = (o: OrderRow) => Number(o.goods) + Number(o.freight) + Number(o.charge);
