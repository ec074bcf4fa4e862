import type { Schemas } from "../../lib/api";
import { day } from "../../lib/number";

export type Times = Schemas["Times"];

/** A moment of a schedule, which knows no zones, as a number to reckon with. */
export const moment = (iso: string) => Date.parse(`${iso}Z`);

/** A moment for reading: 24 Nov 2026, 07:30. */
export const clock = (iso: string) => `${day(iso.slice(0, 10))}, ${iso.slice(11, 16)}`;
