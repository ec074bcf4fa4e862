import type { Schemas } from "../../lib/api";
import { day } from "../../lib/number";

export type Times = Schemas["Times"];

/** A point in time of a schedule, which knows no zones, as milliseconds to add to and compare. */
export const epochOf = (iso: string) => Date.parse(`${iso}Z`);

/** A point in time for reading: 24 Nov 2026, 07:30. */
export const clock = (iso: string) => `${day(iso.slice(0, 10))}, ${iso.slice(11, 16)}`;
