import type { Schemas } from "../lib/api";

export type Inquiry = Schemas["InquiryOut"];
export type InquiryRow = Schemas["InquiryRow"];
export type Evidence = Schemas["EvidenceOut"];
export type CouldBe = Schemas["CouldBe"];

/** How an inquiry stands, in the order in which it goes on. */
export const STATES: Record<string, string> = {
  work: "in work",
  waiting: "waiting for the customer",
  ready: "ready to price",
  quoted: "quoted",
  won: "won",
  lost: "lost",
  dropped: "dropped",
};
